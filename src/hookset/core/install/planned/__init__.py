"""What a plan is made of: changes, choices, steps; and the desk on which it is worked out."""
