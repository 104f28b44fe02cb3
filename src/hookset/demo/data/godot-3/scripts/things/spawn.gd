extends Position2D

# Where players come in.

export(int) var player = 1

func _ready():
	add_to_group("spawns")
