-- teer
deed("teer_ruehren", function(who)
  hear("teer_blubbert")
end)
