extends Node2D

const CRY = preload("res://sounds/gull.tres")

func _ready():
	add_to_group("gulls")
	$Sound.stream = CRY

func startle():
	$Sound.play()
