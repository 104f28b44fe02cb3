extends Line2D

export(NodePath) var holds

func slack(share):
	width = 1.0 + share
