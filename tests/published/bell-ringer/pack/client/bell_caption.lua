local M = {}
function M.begin() on("bell.rung", function() caption("harbour.rung") end) end
return M
