"""Recordings: decoding within limits, and the copy that people listen to."""
