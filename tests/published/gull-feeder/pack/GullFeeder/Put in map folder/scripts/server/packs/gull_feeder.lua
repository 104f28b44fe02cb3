local feeder = {}
function feeder.open()
  on("gull_feeder.feed", function(who) play_sound("gull_1", "gull_rock") end)
end
function feeder.glow() log("the feeder glows") end
return feeder
