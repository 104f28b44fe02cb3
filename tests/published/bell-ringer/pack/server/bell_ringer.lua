local M = {}
function M.begin(name) on("tide.high", function() tell_clients("bell.rung", name) end) end
return M
