"""Where things are put: spots, and things moved to them."""
