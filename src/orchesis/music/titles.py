"""What a song is called where nobody has said: by the name of its file."""

from __future__ import annotations

from pathlib import Path


def title_of(path: Path) -> str:
    """A title from a file's name: "rain-on-the-awning.ogg" -> "Rain on the awning"."""
    words = path.stem.replace("_", " ").replace("-", " ").split()
    text = " ".join(words)
    return text[:1].upper() + text[1:]
