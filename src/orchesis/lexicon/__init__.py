"""The lexicon: traditional rhythms by their traditional names, found in what is played."""
