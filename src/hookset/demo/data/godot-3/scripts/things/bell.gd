extends Node2D

signal rung

export(float, 0.5, 10.0) var every = 4.0

func ring():
	$Sound.play()
	emit_signal("rung")

func _on_timer_timeout():
	if get_node("/root/Weather").foggy or Input.is_action_pressed("ring_bell"):
		ring()
