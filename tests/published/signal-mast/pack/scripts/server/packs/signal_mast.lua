local mast = {}
function mast.hoist() after(9, function() play_sound("mast_flap", "bell_post") end) end
function mast.hoist_with_bridge() log("waits for the bridge") end
return mast
