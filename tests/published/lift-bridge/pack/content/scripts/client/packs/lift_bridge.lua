-- Lift bridge, on each player's machine. Fen Workshop, CC-BY-4.0.
local rules = require("packs.lift_bridge_rules")

local bridge = {}

function bridge.start()
  on("lift_bridge.pulled", function(who)
    if rules.toll > 0 then show_text("lift_bridge.toll") end
  end)
  on("lift_bridge.state", function(state)
    if state == "moving" then
      show_text("lift_bridge.rising")
    elseif state == "down" then
      show_text("lift_bridge.down")
    end
  end)
end

return bridge
