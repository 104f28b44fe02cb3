on("ice_breaks", function()
  buoy("ice_1"):light(true)
end)
