local M = {}
function M.begin(hours)
  on("low_bell.ring", function() play_sound("low_bell", "low_bell_post") end)
end
return M
