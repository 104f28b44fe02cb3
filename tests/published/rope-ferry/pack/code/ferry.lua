Ferry = {}
function Ferry.cross(who)
  local f = node("rope_ferry")
  f:move(8, 0, 0)
end
