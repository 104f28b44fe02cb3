"""What a pack turns out to be: where its files go, which entries it needs, what can be set in it, who made it."""
