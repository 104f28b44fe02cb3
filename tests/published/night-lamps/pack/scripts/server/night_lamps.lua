local M = {}
local COUNT = 6
function M.begin() tell_clients("night.on", COUNT) end
return M
