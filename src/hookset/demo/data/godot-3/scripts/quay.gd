extends Node2D

const BUOY = preload("res://scenes/things/buoy.tscn")

func _ready():
	for lamp in get_tree().get_nodes_in_group("lamps"):
		lamp.light(true)
	get_tree().call_group("gulls", "startle")
	set_out(3)

func set_out(count):
	for number in range(count):
		var buoy = BUOY.instance()
		buoy.position = Vector2(120 + 40 * number, 300)
		$Water.add_child(buoy)

func _on_noon_timeout():
	get_node("/root/Tide").turn(1.0)
