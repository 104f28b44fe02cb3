-- Nebel
on("nebel_beginnt", function()
  play("courses/brackwater_regatta/sounds/nebel.wav")
  buoy("nebel_1"):light(true)
end)
