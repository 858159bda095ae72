"""The words of the field as values: instruments, limbs, metres, hits, bars, transcriptions."""
