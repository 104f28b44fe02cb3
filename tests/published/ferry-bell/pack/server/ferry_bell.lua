local bell = {}
local EVERY = 15 -- minutes
function bell.begin() on("ferry.ding", function() play_sound("ferry_ding") end) end
function bell.hush() end
return bell
