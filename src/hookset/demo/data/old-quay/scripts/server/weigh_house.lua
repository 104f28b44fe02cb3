-- The weigh-house and its bell.
local house = {}
function house.open()
  on("weigh_house.ring", function(who) play_sound("weigh_bell", "weigh_house") end)
end
return house
