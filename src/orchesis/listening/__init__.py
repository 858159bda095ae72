"""What is heard: onsets of drums in the recording, before any grid is laid over them."""
