"""What there is to see of a plan or a map: what it would lead to, what a pack brings, how things stand."""
