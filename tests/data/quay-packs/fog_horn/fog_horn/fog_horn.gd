extends Node2D

signal blown

const HORN = preload("res://fog_horn/horn.tres")

func _ready():
	get_node("/root/FogWatch").connect("foggy", self, "blow")

func blow():
	$Sound.stream = HORN
	$Sound.play()
	emit_signal("blown")

func _process(_delta):
	if Input.is_action_just_pressed("blow_horn"):
		blow()
