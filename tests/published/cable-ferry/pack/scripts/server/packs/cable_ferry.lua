-- Cable ferry. Fen Workshop and Iduna Marsh.
local CROSSING = 20 -- seconds

local ferry = { at = "north", held = false }

function ferry.start(seconds)
  on("cable_ferry.call", function(who)
    if ferry.held then return end
    ferry.held = true
    play_sound("ferry_bell", "ferry_pontoon")
    object("ferry_pontoon"):move(0, 0, ferry.at == "north" and 12 or -12)
    after(seconds or CROSSING, function()
      ferry.at = ferry.at == "north" and "south" or "north"
      ferry.held = false
    end)
  end)
end

function ferry.mind_the_bridge() log("the ferry waits for the bridge") end
function ferry.keep_to_the_tide() log("the ferry keeps to the tide") end

return ferry
