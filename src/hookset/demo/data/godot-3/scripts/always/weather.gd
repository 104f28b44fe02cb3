extends Node

var foggy = false

func _ready():
	var tide = get_node("/root/Tide")
	tide.connect("turned", self, "_on_tide_turned")

func _on_tide_turned(height):
	foggy = height < 1.0
