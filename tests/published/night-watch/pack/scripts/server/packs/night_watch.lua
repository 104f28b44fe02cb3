local ROUND = 90
local LANTERN = true
local watch = {}
function watch.start()
  on("night_watch.wake", function(who) log("on the round, " .. ROUND .. " s, light " .. tostring(LANTERN)) end)
end
return watch
