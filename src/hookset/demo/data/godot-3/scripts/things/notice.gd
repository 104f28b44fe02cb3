extends Panel

export(String) var key = "DUES"

func _ready():
	$Words.text = tr(key)

func show_text(_name = ""):
	$Words.text = tr("DUES")
