local M = {}
function M.begin(n) tell_clients("gulls2.cry", n) end
return M
