-- What both sides of the lift bridge must agree on.
local TOLL = 20          -- coins
local OPEN_SECONDS = 30  -- seconds

return { toll = TOLL, open_seconds = OPEN_SECONDS, steps = 6, rise = 0.75 }
