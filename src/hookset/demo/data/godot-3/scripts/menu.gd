extends Control

func _on_start_pressed():
	if get_tree().change_scene("res://scenes/quay.tscn") != OK:
		push_error("the quay is not there")
