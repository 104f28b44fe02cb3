local M = {}
function M.begin() log("open") end
return M
