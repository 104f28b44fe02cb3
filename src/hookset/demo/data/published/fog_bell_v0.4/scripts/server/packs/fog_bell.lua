-- Fog bell, server side. Marrow & Tern, CC0.
local fog_bell = {}
local BUOYS = { "fog_bell_1", "fog_bell_2" }

local function toll(buoy)
	play_sound("fog_bell_toll", buoy)
	tell_clients("fog_bell.heard")
end

function fog_bell.start(seconds)
	for index, buoy in ipairs(BUOYS) do
		after(seconds + index, function() toll(buoy) end)
	end
	on("fog_bell.touch", function(who) toll(BUOYS[1]) end)
end

return fog_bell
