-- Fog bell, on each player's machine. Marrow & Tern, CC0.
on("fog_bell.heard", function() show_text("fog_bell.heard") end)
