"""A built map where a game looks for it."""
