extends Reference

# Reads a table of the data folder.

static func read(path):
	var file = File.new()
	if file.open(path, File.READ) != OK:
		return {}
	var read = JSON.parse(file.get_as_text())
	file.close()
	return read.result

static func boats():
	return read("res://data/boats.json")
