"""Programs that load a map and say what is wrong with it: run in a folder of their own, and compared with the check."""
