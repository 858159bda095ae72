"""The evidence of a song: what the network said of its recording and of those beside it."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from orchesis.listening.evidence import Evidence, unpacked
from studio.artefacts import have
from studio.models import Song, SourceState


def own_evidence(song: Song) -> Evidence | None:
    """What was heard in the song's own recording; None where nothing was kept."""
    return _read(song.evidence_path)


def evidence_beside(song: Song) -> list[tuple[int, str, Evidence]]:
    """Id, title and evidence of each second recording that was lined up."""
    found = []
    for source in song.sources.filter(state=SourceState.READY):
        evidence = _read(source.evidence_path)
        if evidence is not None:
            found.append((source.pk, source.title, evidence))
    return found


def _read(path: Path) -> Evidence | None:
    return _unpacked(path, path.stat().st_mtime_ns) if have(path) else None


@lru_cache(maxsize=4)
def _unpacked(path: Path, changed: int) -> Evidence:
    """Kept while the file is the same: the bar stack asks for section after section."""
    return unpacked(path.read_bytes())
