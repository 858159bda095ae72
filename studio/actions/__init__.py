"""What can be done to a song: each action checks, does one thing in a transaction, and logs it."""
