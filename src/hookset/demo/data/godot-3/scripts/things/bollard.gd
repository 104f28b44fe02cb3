extends StaticBody2D

export(int, 1, 4) var ropes = 2

func _ready():
	add_to_group("bollards")
