"""Feel: where the strokes fall against the grid, how loud they are, how dry the kit sounds."""
