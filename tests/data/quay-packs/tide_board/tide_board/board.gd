extends Panel

signal looked_at(name)

func _ready():
	get_node("/root/Tide").connect("turned", self, "_on_turned")

func _on_turned(height):
	$Words.text = str(stepify(height, 0.1))

func _process(_delta):
	if Input.is_action_just_pressed("look_at_board"):
		emit_signal("looked_at", "board")
