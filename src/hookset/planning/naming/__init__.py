"""Names written otherwise, in every format that the layout reads."""
