"""The chart: the transcription as notation and as files that other programs read."""
