"""What comes out, for people and for programs: plain data turned into words."""
