"""Recordings that are kept no longer than a rule says: the chart stays, the kit plays it.

Whoever runs the server may have to promise that recordings do not lie about for ever
(`ORCHESIS_KEEP_RECORDINGS_DAYS`; 0, as it is by itself: they do). Looked after daily by the keeper.
"""

from __future__ import annotations

import logging
from datetime import timedelta
from fnmatch import fnmatch

from django.db import transaction
from django.utils import timezone

from studio import artefacts
from studio.actions.exchange import prepare_silence
from studio.actions.sources import remove_source
from studio.models import OPEN_STATES, Song

log = logging.getLogger(__name__)

HEARD = ("source*", "*.ogg", "*.npz", "peaks.bin", "heard-again.json", "mixes/*")
"""Everything of a song's folder in which its recording can be heard or seen."""


def end_old_recordings(days: int) -> int:
    """End the recordings of songs that nobody has changed for so many days; how many there were."""
    if not days:
        return 0
    before = timezone.now() - timedelta(days=days)
    old = Song.objects.filter(updated_at__lt=before, revision__gt=0).exclude(suffix="")
    ended = 0
    for song in old:
        try:
            ended += end_recording(song)
        except Exception:
            # One that fails is tried again tomorrow; the others do not wait for it.
            log.exception("the recording of %s could not be ended", song.pk)
    return ended


def end_recording(song: Song) -> bool:
    """Leave of a song its chart alone. False while somebody works on its recording.

    Its row says so last: what is killed in the midst is taken up the next day.
    """
    with transaction.atomic():
        locked = Song.objects.select_for_update().get(pk=song.pk)
        if locked.jobs.filter(state__in=OPEN_STATES).exists() or not locked.suffix:
            return False
        for source in list(locked.sources.all()):
            remove_source(source)
        for name in artefacts.names_of(locked):
            if any(fnmatch(name, pattern) for pattern in HEARD):
                artefacts.withdraw(locked.folder / name)
        prepare_silence(locked)
        artefacts.publish(locked)
        Song.objects.filter(pk=locked.pk).update(suffix="", source_bytes=0)
    return True
