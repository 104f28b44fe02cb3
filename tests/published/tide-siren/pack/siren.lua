local M = {}
function M.begin(seconds)
  on("tide.high", function() tell_clients("siren.sound", seconds) end)
end
return M
