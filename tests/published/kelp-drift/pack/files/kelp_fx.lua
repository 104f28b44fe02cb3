local M = {}
function M.begin() on("kelp.in", function() play("kelp_slap") end) end
return M
