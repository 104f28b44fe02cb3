"""Floor 16: what comes out, for a person and for a program. Everything here turns plain data into words."""
