extends Node2D

export(Color) var colour = Color(1, 0.9, 0.6)

func _ready():
	add_to_group("lamps")
	$Light.color = colour

func light(on):
	$Light.enabled = on
