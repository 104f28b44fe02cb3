local clock = {}
function clock.begin(hours)
  on("ebb_clock.look", function(who) play_sound("ebb_tick", "ebb_clock") end)
  log("the clock has " .. hours .. " hours")
end
return clock
