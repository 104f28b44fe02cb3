extends CanvasLayer

onready var words = $Words

func _on_gate_opened():
	words.text = tr("GATE_OPENS")

func _on_bell_rung():
	words.text = tr("BELL_RINGS")

func _on_ferry_left(_landing):
	words.text = tr("FERRY_LEAVES")
