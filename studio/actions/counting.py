"""What the shelf shows of a song, counted when it has changed and stored beside it.

An edit does not wait for it: whoever opens the shelf next finds the few songs that were changed
since, and they are counted then.
"""

from __future__ import annotations

import json
import logging
from typing import Any

from django.contrib.auth.models import User
from django.db.models import F

from orchesis.chart.readings import feel_words
from orchesis.music.json import from_json
from studio.models import Song
from studio.values.page import grooves_page

log = logging.getLogger(__name__)

COUNTED_AT_ONCE = 6
"""Songs that one look at the shelf counts: nobody edits more between two looks."""

LONGEST_RHYTHMS = 400


def count_changed(owner: User, most: int = COUNTED_AT_ONCE) -> int:
    """Count the songs of somebody that have changed since they were counted, newest first."""
    own = Song.objects.filter(owner=owner, revision__gt=0, is_copy_for=None)
    stale = own.exclude(counted_at=F("revision"))
    songs = list(stale.order_by("-updated_at")[:most])
    for song in songs:
        try:
            count(song)
        except Exception:
            # One song that cannot be counted must not hide all the others. Its counts stay as they
            # were until it changes, and what is wrong with it is for whoever reads the log.
            log.exception("song %s could not be counted", song.pk)
            Song.objects.filter(pk=song.pk).update(counted_at=song.revision)
    return len(songs)


def count(song: Song) -> None:
    """Count one song. A change made meanwhile leaves it to be counted again."""
    grooves: dict[str, Any] = json.loads(grooves_page(song)[1])
    doubts = sum(
        hit["status"] == "doubtful"
        for hits in song.bars.values_list("hits", flat=True)
        for hit in hits
    )
    hard = [item["difficulty"] for item in grooves["sections"] if item.get("difficulty")]
    names = {name["words"]: None for item in grooves["sections"] for name in item["names"]}
    values = {
        "counted_at": song.revision,
        "feel": (feel_words(from_json({**(song.header or {}), "hits": []})) or "straight")[:80],
        "bar_count": song.bars.count(),
        "doubt_count": doubts,
        "difficulty": max((float(item["value"]) for item in hard), default=0.0),
        "rhythms": "; ".join(names)[:LONGEST_RHYTHMS],
    }
    # Neither the counter nor the day of the last change moves by it.
    Song.objects.filter(pk=song.pk, revision=song.revision).update(**values)
    for name, value in values.items():
        setattr(song, name, value)
