extends Node2D

var rises = 0.0

func _ready():
	add_to_group("buoys")
	get_node("/root/Tide").connect("turned", self, "_on_tide_turned")

func _on_tide_turned(height):
	position.y -= height - rises
	rises = height
