"""For a person: one module per command's output. Each function returns something that Rich can print."""
