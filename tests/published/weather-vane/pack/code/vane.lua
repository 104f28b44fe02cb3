on("vane_start", function()
  buoy("red_2"):light(true)
end)
