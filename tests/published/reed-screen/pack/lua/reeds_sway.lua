local M = {}
function M.begin() on("reeds.sway", function(name) caption("reeds.name") end) end
return M
