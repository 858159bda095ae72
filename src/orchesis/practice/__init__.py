"""Playing along: the click, the count-in."""
