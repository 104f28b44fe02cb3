on("fog_rolls", function() play("courses/brackwater_regatta/sounds/fog.wav") end)
