"""Floor 17: the commands. Each opens, calls the core and shows what comes back; nothing is decided here."""
