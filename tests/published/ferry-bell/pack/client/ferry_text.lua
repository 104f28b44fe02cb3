local M = {}
function M.begin() show_text("ferry.hint") end
return M
