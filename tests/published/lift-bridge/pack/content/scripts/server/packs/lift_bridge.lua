-- Lift bridge, server side. Fen Workshop, CC-BY-4.0.
local rules = require("packs.lift_bridge_rules")

local bridge = { state = "down" }

local function lift(step, direction)
  if step > rules.steps then
    bridge.state = direction > 0 and "up" or "down"
    tell_clients("lift_bridge.state", bridge.state)
    return
  end
  object("bridge_span"):move(0, rules.rise * direction, 0)
  play_sound("bridge_chain", "bridge_span")
  after(1, function() lift(step + 1, direction) end)
end

function bridge.start()
  on("lift_bridge.pull", function(who)
    if bridge.state ~= "down" then return end
    bridge.state = "moving"
    play_sound("bridge_horn", "bridge_lever")
    tell_clients("lift_bridge.state", "moving")
    after(2, function() lift(1, 1) end)
    after(2 + rules.steps + rules.open_seconds, function() lift(1, -1) end)
  end)
end

return bridge
