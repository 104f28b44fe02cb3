extends Node2D

const GLOW = preload("res://leuchtfeuer/glow.tres")

export(float) var seconds = 6.0

var is_on = false

func turn_on():
	is_on = true
	$Light.color = GLOW.interpolate(0.0)

func _process(delta):
	if is_on:
		$Light.rotation += TAU * delta / seconds
