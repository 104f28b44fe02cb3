"""Where things stand in a map: read by the layout's rules into columns of numbers, and written back."""
