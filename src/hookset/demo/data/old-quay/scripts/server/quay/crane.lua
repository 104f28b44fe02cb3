-- The tide crane: wound up at ebb, its jib swings out over the water.
local winding = require("quay.winding")

local crane = { up = false }

function crane.open(seconds)
  on("crane.wind", function(who)
    local jib = object("crane_jib")
    play_sound("crane_creak", "tide_crane")
    after(winding.turns(seconds), function()
      crane.up = not crane.up
      jib:move(0, crane.up and 4 or -4, 0)
      tell_clients("crane.moved", who)
    end)
  end)
end

return crane
