local M = {}
function M.begin() on("tide.high", function() tell_clients("kelp.in") end) end
return M
