"""A stored song as an object of the core."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import replace

from django.db import connection

from orchesis.fills.find import AROUND, FEWEST_BARS, find_fills, with_decisions
from orchesis.music.json import from_json, hit_from_json
from orchesis.music.values import Fill, Hit, Transcription
from studio.models import Song, SongBar

BARS_KEPT = 4096
"""Bars whose notes a process keeps as objects, some ten songs: an edit changes one of them."""

Key = tuple[int, int]
"""A row of SongBar and its revision: every change of its notes raises that."""

_kept: OrderedDict[Key, tuple[Hit, ...]] = OrderedDict()

SECTIONS_KEPT = 512
"""Sections whose fills a process keeps, by the bars that they were found in."""

_kept_fills: OrderedDict[tuple[object, ...], tuple[Fill, ...]] = OrderedDict()


def load_transcription(song: Song) -> Transcription:
    """The transcription as it stands now, edits included. The song must have one."""
    assert song.header is not None
    bare = from_json({**song.header, "title": song.title, "hits": []})
    keys = list(song.bars.values_list("pk", "revision"))
    bars = _notes(keys)
    score = bare.with_hits(hit for bar in bars for hit in bar)
    return replace(score, fills=_fills(score, keys)) if len(keys) == len(score.bars) else score


def _fills(score: Transcription, keys: list[Key]) -> tuple[Fill, ...]:
    """The fills of the song as its notes are now; only sections whose bars changed are looked at.

    keys : of every bar, in order.
    """
    found: list[Fill] = []
    first = score.bars[0].number if score.bars else 0
    for section in score.sections:
        start = section.first_bar - first
        own = range(start, start + section.bars)
        # What is beside a section counts where it begins and ends, more where it is short.
        beside = AROUND if section.bars < FEWEST_BARS else 1
        low, high = max(0, own.start - beside), min(len(score.bars), own.stop + beside)
        about = (
            *keys[low:high],
            own.start - low,
            section.bars,
            *(round(bar.start, 4) for bar in score.bars[low:high]),
            *(bar.meter for bar in score.bars[low:high]),
        )
        known = _kept_fills.get(about)
        if known is None:
            shifted = range(own.start - low, own.stop - low)
            bars = score.bars[low:high]
            numbers = {bar.number for bar in bars}
            hits = [hit for hit in score.hits if hit.bar in numbers]
            inside = {score.bars[index].number for index in own}
            known = tuple(f for f in find_fills(bars, hits, [shifted]) if f.bar in inside)
            if not connection.in_atomic_block:
                _kept_fills[about] = known
        if about in _kept_fills:
            _kept_fills.move_to_end(about)
        found += known
    while len(_kept_fills) > SECTIONS_KEPT:
        _kept_fills.popitem(last=False)
    return with_decisions(found, score.bars, score.fill_decisions)


def _notes(keys: list[Key]) -> list[tuple[Hit, ...]]:
    """The notes of these bars; those that this process has read before are not read again."""
    found = {key: _kept[key] for key in keys if key in _kept}
    missing = {pk: (pk, revision) for pk, revision in keys if (pk, revision) not in found}
    rows = SongBar.objects.filter(pk__in=missing).values_list("pk", "revision", "hits")
    for pk, revision, hits in rows:
        # It may have been changed since its revision was asked for: what is read now counts.
        found[missing[pk]] = notes = tuple(hit_from_json(hit) for hit in hits)
        # What a transaction has written may never be.
        if not connection.in_atomic_block:
            _kept[pk, revision] = notes
    for key in keys:
        if key in _kept:
            _kept.move_to_end(key)
    while len(_kept) > BARS_KEPT:
        _kept.popitem(last=False)
    return [found.get(key, ()) for key in keys]
