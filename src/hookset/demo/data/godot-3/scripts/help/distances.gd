extends Reference

static func nearest(place, things):
	var best = null
	for thing in things:
		if best == null or place.distance_to(thing.position) < place.distance_to(best.position):
			best = thing
	return best
