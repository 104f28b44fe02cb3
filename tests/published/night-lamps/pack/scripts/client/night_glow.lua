local M = {}
function M.begin() on("night.on", function(n) play("gull_1") end) end
return M
