on("horn", function() play("courses/YOURFOLDER/sounds/horn.wav") end)
