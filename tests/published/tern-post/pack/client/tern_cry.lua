local M = {}
function M.begin() on("tern.cry", function() play("tern_cry") end) end
return M
