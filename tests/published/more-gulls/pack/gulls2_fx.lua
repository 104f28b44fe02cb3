local M = {}
function M.begin() on("gulls2.cry", function(n) play("gull_4"); play("gull_5") end) end
return M
