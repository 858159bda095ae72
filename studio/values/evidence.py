"""The evidence of a song: what the network said of its recording and of those beside it."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from orchesis.listening.evidence import Evidence, unpacked
from studio.artefacts import have
from studio.models import Song, SourceState


def own_evidence(song: Song) -> Evidence | None:
    """What was heard in the song's own recording; None where nothing was kept."""
    return _read(song.evidence_path, str(song.heard))


def evidence_beside(song: Song) -> list[tuple[int, str, Evidence]]:
    """Id, title and evidence of each second recording that was lined up."""
    found = []
    for source in song.sources.filter(state=SourceState.READY):
        line = f"{source.offset} {source.speed} {source.error}"
        evidence = _read(source.evidence_path, line)
        if evidence is not None:
            found.append((source.pk, source.title, evidence))
    return found


def _read(path: Path, of: str) -> Evidence | None:
    return _unpacked(path, of) if have(path) else None


@lru_cache(maxsize=4)
def _unpacked(path: Path, of: str) -> Evidence:
    """Kept while it is `of` the same run: the bar stack asks for section after section."""
    return unpacked(path.read_bytes())
