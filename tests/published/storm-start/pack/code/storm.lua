on("storm_breaks", function()
  play("courses/tern_bay/sounds/thunder.wav")
end)
