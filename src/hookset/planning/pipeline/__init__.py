"""One pack into a map: its files and entries as this map is to have them, each set or taken out."""
