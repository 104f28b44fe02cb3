local M = {}
function M.begin(name)
  local screen = object(name)
  tell_clients("reeds.sway", name)
end
return M
