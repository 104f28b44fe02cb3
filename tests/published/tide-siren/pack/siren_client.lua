local M = {}
function M.begin() on("siren.sound", function() play("tide_siren") end) end
return M
