"""Steps of a build: which are needed, by content; run in a copy, and what comes of them."""
