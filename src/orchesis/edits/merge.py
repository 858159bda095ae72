"""What a person decided outlives a new listening run: edits, settled notes, the grid, the form."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

from orchesis.edits.make import settled_bars
from orchesis.edits.relisten import nearest_place
from orchesis.fills.find import with_decisions
from orchesis.form.confirmed import with_confirmed
from orchesis.music.instruments import Instrument
from orchesis.music.values import Bar, Hit, Transcription
from orchesis.rhythm.rewrite import onto_bars, sections_on

SAME_LINE = 0.06
"""Seconds: bar lines this near each other are the same."""

SAME_STROKE = 0.05


@dataclass(frozen=True, slots=True)
class Decided:
    """What people have decided of a song.

    confirmed : findings of the whole song that somebody confirmed.
    bars : numbers of the bars in which edits stand.
    grid : somebody chose the reading, tapped, typed a tempo or drew a bar line.
    sections : somebody changed the form.
    """

    confirmed: Collection[str] = ()
    bars: Collection[int] = ()
    grid: bool = False
    sections: bool = False


def merged(old: Transcription, new: Transcription, decided: Decided) -> Transcription:
    """What was heard anew, with all that people decided while and before it was heard.

    Bars with edits are as they stand, note for note, and so is the grid under them: an edit names
    its bar by number. The new strokes are written round them.
    """
    if old.bars and not new.bars:
        # No beat was found this time: that is no reason to take away what was.
        return old
    if (decided.bars or decided.grid) and old.bars:
        result = onto_bars(new, old)
        if "feel" in decided.confirmed:
            result = replace(result, feel=old.feel)
        # The form's own confirmations hold as ever; the grid is the old one already.
        result = with_confirmed(old, result, ())
    else:
        result = with_confirmed(old, new, decided.confirmed)
    if decided.sections:
        result = replace(result, sections=sections_on(result.bars, old.sections))
    result = with_settled(old, result)
    # What was said of fills holds by its time: they are found anew beside it when notes change.
    result = replace(
        result,
        fill_decisions=old.fill_decisions,
        cues=old.cues,
        part_decisions=old.part_decisions,
        fills=with_decisions(result.fills, result.bars, old.fill_decisions),
    )
    kept = set(decided.bars)
    if not kept:
        return result
    home = {bar.number: bar for bar in old.bars}
    hits = [hit for hit in result.hits if hit.bar not in kept]
    hits += [hit for hit in old.hits if hit.bar in kept]
    bars = tuple(home[bar.number] if bar.number in kept else bar for bar in result.bars)
    return replace(result, bars=bars).with_hits(hits)


def with_settled(old: Transcription, new: Transcription) -> Transcription:
    """The new transcription with the notes that were settled in the old one.

    A bar that was settled altogether, and is still there, is as it was. Elsewhere a settled note
    takes the place of what was heard anew of its drum at its time; left out stays left out.
    """
    kept = [hit for hit in old.hits if hit.settled]
    if not kept or not new.bars:
        return new
    done = settled_bars(old)
    twins = {bar.number: twin for bar in old.bars if bar.number in done for twin in _twin(bar, new)}
    replaced = {twin.number for twin in twins.values()}
    hits = [hit for hit in new.hits if hit.bar not in replaced]
    hits += [replace(hit, bar=twins[hit.bar].number) for hit in old.hits if hit.bar in twins]
    for hit in kept:
        if hit.bar in twins:
            continue
        bar = next((b for b in new.bars if b.start - 0.03 <= hit.time < b.end - 0.03), None)
        if bar is None or bar.number in replaced:
            continue
        place = nearest_place(new, bar, hit.time)
        hits = [item for item in hits if not _same(item, hit, (bar.number, place, hit.instrument))]
        hits.append(replace(hit, bar=bar.number, position=place))
    return new.with_hits(hits)


def _twin(bar: Bar, song: Transcription) -> list[Bar]:
    """The bar of another grid that has this one's lines and metre, if there is one."""
    return [
        other
        for other in song.bars
        if abs(other.start - bar.start) < SAME_LINE
        and abs(other.end - bar.end) < SAME_LINE
        and other.meter == bar.meter
    ][:1]


def _same(item: Hit, hit: Hit, place: tuple[int, object, Instrument]) -> bool:
    near = abs(item.time - hit.time) < SAME_STROKE and item.instrument is hit.instrument
    return (near and not item.settled) or item.place == place
