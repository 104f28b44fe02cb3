"""The commands. Each opens, calls the packages below and shows the result; nothing is decided here."""
