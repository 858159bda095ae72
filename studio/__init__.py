"""The web studio: it stores songs, says who may see them, and calls the core."""
