"""What a stored song says: as objects of the core, and as what the screens show."""
