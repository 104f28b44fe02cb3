"""What a pack turns out to be: where its files go, which entries it needs, which settings it has, who made it."""
