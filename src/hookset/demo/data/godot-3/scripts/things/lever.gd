extends Area2D

signal pulled(down)

const CLUNK = preload("res://sounds/clunk.tres")

export(NodePath) var works

var down = false

func _ready():
	add_to_group("levers")
	$Sound.stream = CLUNK

func pull():
	down = not down
	$Sound.play()
	emit_signal("pulled", down)

func _unhandled_input(event):
	if event.is_action_pressed("pull_lever"):
		pull()
