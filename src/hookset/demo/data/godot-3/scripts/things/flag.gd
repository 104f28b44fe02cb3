extends Node2D

signal raised

func raise_flag():
	visible = true
	emit_signal("raised")
