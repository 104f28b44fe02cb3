extends Node

# Who has paid the harbour dues.

signal paid(name)

const DUES = 3

var entries = []

func pay(name):
	entries.append(name)
	emit_signal("paid", name)

func owes(name):
	return 0 if name in entries else DUES
