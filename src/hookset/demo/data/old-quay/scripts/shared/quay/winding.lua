-- How long winding takes, for both sides.
local winding = {}
function winding.turns(seconds) return seconds * 2 end
return winding
