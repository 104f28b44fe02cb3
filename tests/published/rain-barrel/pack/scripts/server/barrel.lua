-- rain barrel
local CAPACITY = 40 -- litres
local M = {}
function M.fill()
  on("barrel.tap", function(who) tell_clients("barrel.tapped", who) end)
end
return M
