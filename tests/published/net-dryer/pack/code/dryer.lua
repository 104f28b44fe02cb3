deed("dry_net", function(who) hear("rope_creak") end)
