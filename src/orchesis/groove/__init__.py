"""The groove of a section: what is played in its typical bar, and how it is counted aloud."""
