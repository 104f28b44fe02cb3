extends Node2D

const SWING = preload("res://curves/swing.tres")

signal swung(degrees)

var at = 0.0

func swing(share):
	at = SWING.interpolate(share) * 180.0
	$Arm.rotation_degrees = at
	emit_signal("swung", at)

func _on_lever_pulled(down):
	swing(1.0 if down else 0.0)
