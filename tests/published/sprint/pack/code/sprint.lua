local LENGTH = 400 -- metres
on("sprint_start", function() buoy("sprint_1"):light(true) end)
