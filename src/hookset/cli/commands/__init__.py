"""One module per command; the module's name is the command's, and its `command` is what Click runs."""
