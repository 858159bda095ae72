"""Fills: where the player leaves the groove. Nothing is found here yet: the floor is laid."""
