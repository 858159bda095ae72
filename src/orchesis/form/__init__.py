"""Form: the song as sections. In this version the song is one section from where drums enter."""
