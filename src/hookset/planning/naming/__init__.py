"""Names spelled differently, in every format that the layout reads."""
