local M = {}
function M.begin()
  on("tide.low", function() tell_clients("marsh.lit") end)
end
return M
