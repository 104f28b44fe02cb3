extends Node2D

signal wound

func wind():
	$Chain.play()
	emit_signal("wound")
