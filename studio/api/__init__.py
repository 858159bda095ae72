"""The web interface: who asks, what they may see, and the shapes of what they get."""
