// A glow on each player's machine
handle("lamps.look", () => say("lamps.switch"));
