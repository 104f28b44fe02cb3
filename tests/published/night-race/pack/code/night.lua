on("night_falls", function()
  play("courses/MYCOURSE/sounds/gong.wav")
  buoy("red_3"):light(true)
end)
