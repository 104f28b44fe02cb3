-- Lamp row. Lamplighters of Old Quay.
local STEP = 2 -- seconds from lamp to lamp
local lamps = { "row_lamp_1", "row_lamp_2" }

local row = {}

local function light(number)
  play_sound("lamp_hiss", lamps[number])
end

function row.start(hour)
  log("dusk is at " .. hour)
  for number in ipairs(lamps) do
    after(number * STEP, function() light(number) end)
  end
end

return row
