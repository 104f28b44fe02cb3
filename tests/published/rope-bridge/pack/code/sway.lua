deed("sway", function(who)
  hear("bridge_sway")
end)
