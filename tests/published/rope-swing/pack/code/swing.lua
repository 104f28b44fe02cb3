-- A swing
PUSHES = 5 -- until it hangs still
deed("swing_rope", function(who)
  for push = 1, PUSHES do hear("swing_creak") end
end)
