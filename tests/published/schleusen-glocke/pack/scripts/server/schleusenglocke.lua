local M = {}
function M.laeuten(n) for i = 1, n do tell_clients("glocke", i) end end
return M
