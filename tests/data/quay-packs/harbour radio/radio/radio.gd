extends Node

var last = ""

func _ready():
	add_to_group("radios")
	get_node("/root/Tide").connect("turned", self, "_on_tide_turned")

func _on_tide_turned(_height):
	last = tr("RADIO_TIDE")
