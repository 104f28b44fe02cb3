local VOLUME = 0.5 -- 0.1 to 1.0
local radio = {}
function radio.on_air()
  on("tide.turned.radio", function() play_sound("radio_beep") log(VOLUME) end)
end
return radio
