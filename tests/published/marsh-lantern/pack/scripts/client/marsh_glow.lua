local M = {}
function M.begin()
  on("marsh.lit", function() play("marsh_hiss"); caption("marsh.lit") end)
end
return M
