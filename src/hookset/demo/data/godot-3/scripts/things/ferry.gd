extends KinematicBody2D

signal left(landing)

export(Array, NodePath) var landings = []

var at = 0

func cast_off():
	at = (at + 1) % max(landings.size(), 1)
	emit_signal("left", at)

func _on_bell_rung():
	cast_off()

func _process(_delta):
	if Input.is_action_just_pressed("cast_off"):
		cast_off()
