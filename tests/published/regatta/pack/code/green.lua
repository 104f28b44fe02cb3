-- The green crew.
LAPS = 4
load("courses/old_quay_cup/code/wind.lua")
on("green_home", function()
  play("courses/old_quay_cup/sounds/horn.wav")
  buoy("green_2"):light(true)
end)
