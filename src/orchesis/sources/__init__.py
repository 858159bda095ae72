"""Second recordings of a song: lined up with the first, so that one bar can be heard in both."""
