extends Area2D

const Notice = preload("res://scenes/things/notice.tscn")

func _on_body_entered(body):
	var ledger = get_node("/root/Ledger")
	if ledger.owes(body.name) > 0:
		add_child(Notice.instance())
		ledger.pay(body.name)
