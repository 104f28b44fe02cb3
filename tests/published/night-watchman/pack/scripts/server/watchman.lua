local watchman = {}
watchman.ROUNDS = 3
function watchman.start(hour)
  on("watch.whistle", function(who) play_sound("watch_whistle") end)
end
return watchman
