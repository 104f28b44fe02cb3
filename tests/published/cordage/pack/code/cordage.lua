-- cordage
deed("cordage_tirer", function(who)
  hear("cordage_grince")
end)
