-- A kite on a string. Nobody wrote any notes.
local kite = {}
local HEIGHT = 12 -- m above the quay, 5..40

function kite.open()
  after(20, function()
    play_sound("kite_flap", "bell_post")
    log("the kite is at " .. HEIGHT)
  end)
end

return kite
