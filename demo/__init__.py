"""The demo songs: composed for this project, rendered once, shipped with their true scores."""
