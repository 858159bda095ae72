"""Changes as values: each can be applied, inverted and explained in words."""
