local hour = {}
local QUIET = false
function hour.begin(bell)
  on("tide.turned", function() if not QUIET then play_sound(bell, "bell_post") end end)
end
return hour
