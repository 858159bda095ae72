"""The grid: beats that follow the recording, bar lines, swing, and where each hit is written."""
