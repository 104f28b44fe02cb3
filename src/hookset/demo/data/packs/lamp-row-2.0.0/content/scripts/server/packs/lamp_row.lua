-- Lamp row. Lamplighters of Old Quay.
-- From 2.0 on the lamps go out at dawn.
local STEP = 2 -- seconds from lamp to lamp
local lamps = { "row_lamp_1", "row_lamp_2", "row_lamp_3" }

local row = {}

local function light(number)
  play_sound("lamp_hiss", lamps[number])
end

function row.start(dusk, dawn)
  log("dusk is at " .. dusk .. ", dawn at " .. dawn)
  for number in ipairs(lamps) do
    after(number * STEP, function() light(number) end)
  end
end

return row
