on("yellow_home", function() buoy("yellow_1"):light(true) end)
