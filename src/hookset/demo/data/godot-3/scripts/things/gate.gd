extends Node2D

signal opened
signal shut

export(float) var seconds = 2.0

onready var sound = $Sound

var is_open = false

func open():
	is_open = true
	sound.play()
	emit_signal("opened")

func shut():
	is_open = false
	emit_signal("shut")

func _on_lever_pulled(down):
	if down:
		open()
	else:
		shut()
