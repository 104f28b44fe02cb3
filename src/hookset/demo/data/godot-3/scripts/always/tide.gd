extends Node

# How high the water stands, in metres over the sill.

signal turned(height)

const CURVE = preload("res://curves/tide.tres")

var hour = 0.0
var height = 0.0

func _ready():
	add_to_group("clocks")
	height = CURVE.interpolate(0.0)

func turn(hours):
	hour = fmod(hour + hours, 12.0)
	height = CURVE.interpolate(hour / 12.0)
	emit_signal("turned", height)
