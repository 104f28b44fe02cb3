extends Node

signal foggy

func _ready():
	get_node("/root/Tide").connect("turned", self, "_on_turned")

func _on_turned(height):
	if height < 1.0:
		emit_signal("foggy")
