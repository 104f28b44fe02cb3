-- The glow around the lamps, drawn by each player.
return {}
