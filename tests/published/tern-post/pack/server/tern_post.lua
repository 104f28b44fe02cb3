local M = {}
function M.begin(count)
  for n = 1, count do tell_clients("tern.cry", n) end
end
return M
