-- A market stall. Tolly Reed, CC0-1.0.
local stall = {}
function stall.open(berth, keeper)
  log(keeper .. " keeps a stall at " .. berth)
  on("market_stall.near", function() play_sound("market_jingle", "market_stall") end)
end
return stall
