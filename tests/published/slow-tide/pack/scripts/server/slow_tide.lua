local M = {}
function M.minutes() return 12 end
function M.turned(state) log("slow " .. state) end
return M
