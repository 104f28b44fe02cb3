local light = {}
function light.begin()
  after(10, function() object("light_buoy"):move(0, 0.1, 0) end)
end
return light
