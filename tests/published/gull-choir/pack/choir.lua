local choir = {}
local EVERY = 5

function choir.sing()
  play_sound("gull_caw", "gull_rock")
end
return choir
