local M = {}
function M.play(name) play("music_" .. name) end
function M.stop() end
return M
