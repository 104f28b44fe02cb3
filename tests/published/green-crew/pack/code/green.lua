on("green_home", function()
  buoy("green_1"):light(true)
end)
