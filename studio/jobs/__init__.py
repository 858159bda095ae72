"""Work that takes longer than a page may wait."""
