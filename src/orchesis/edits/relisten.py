"""Relistening: what the tool would write otherwise, now that some bars are settled.

Nothing a person decided is touched. Each change is an edit, so that the user can look at it, take
it, and take it back.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from orchesis.edits.edit import Edit
from orchesis.edits.majority import Confirmed, Contradiction, are_kin
from orchesis.edits.make import settled_bars
from orchesis.groove.dynamics import loudness_of, soft_below, velocity_of
from orchesis.limbs.assign import assign_limbs
from orchesis.listening.ear import Onset
from orchesis.listening.evidence import Evidence
from orchesis.listening.judge import Judge
from orchesis.listening.relearn import best_lessons, listen_again
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import UNCERTAIN_BELOW, Bar, Hit, Transcription, written
from orchesis.rhythm.due import written_time

SAME_STROKE = 0.04
"""Seconds: a stroke of one drum this near a written one is that one."""

FEWEST_SETTLED = 1


@dataclass(frozen=True, slots=True)
class BarProposal:
    """What would change in a bar, and why in a sentence."""

    bar: int
    edits: tuple[Edit, ...]


def propose(song: Transcription, evidence: Evidence, judge: Judge) -> tuple[BarProposal, ...]:
    """What would change in the bars that are not settled; () while none is settled."""
    done = settled_bars(song)
    if len(done) < FEWEST_SETTLED or not song.bars:
        return ()
    numbers = [bar.number for bar in song.bars]
    settled = [(h.time, h.instrument) for h in written(song.hits) if h.bar in done]
    onsets = listen_again(
        evidence,
        [*(bar.start for bar in song.bars), song.bars[-1].end],
        [index for index, number in enumerate(numbers) if number in done],
        settled,
        judge,
    )
    by_bar: dict[int, list[Onset]] = defaultdict(list)
    starts = np.array([bar.start for bar in song.bars])
    for onset in onsets:
        index = int(np.searchsorted(starts, onset.time + 0.03, side="right")) - 1
        if index >= 0 and onset.time < song.bars[index].end:
            by_bar[numbers[index]].append(onset)
    soft = soft_below(
        [loudness_of(h.velocity) for h in written(song.hits) if h.instrument is Instrument.SNARE]
    )
    confirmed = Confirmed(song, done)
    found = []
    for bar in song.bars:
        if bar.number in done:
            continue
        edits = _not_outvoted(confirmed, bar, _in_bar(song, bar, by_bar[bar.number], soft))
        if edits:
            found.append(BarProposal(bar.number, edits))
    return tuple(found)


def _not_outvoted(confirmed: Confirmed, bar: Bar, edits: tuple[Edit, ...]) -> tuple[Edit, ...]:
    """Without those that write a drum for another against most confirmed bars like this one."""
    return tuple(
        edit
        for edit in edits
        if edit.before is None
        or edit.after is None
        or not are_kin(edit.before.instrument, edit.after.instrument)
        or not confirmed.speaks_against(
            bar.number, edit.before.position, edit.before.instrument, edit.after.instrument
        )
    )


def contradictions(song: Transcription) -> tuple[Contradiction, ...]:
    """The confirmed bars that contradict other confirmed bars like them."""
    return Confirmed(song, settled_bars(song)).contradictions()


LESSONS = 4


def lessons(song: Transcription, evidence: Evidence) -> tuple[int, ...]:
    """The numbers of the bars that would teach most if they were settled next."""
    done = settled_bars(song)
    doubts = {bar.number: 0.0 for bar in song.bars}
    for hit in written(song.hits):
        if not hit.settled:
            doubts[hit.bar] += 1.0 - hit.confidence
    lines = [*(bar.start for bar in song.bars), song.bars[-1].end] if song.bars else []
    numbers = list(doubts)
    settled = [index for index, number in enumerate(numbers) if number in done]
    best = best_lessons(evidence, lines, list(doubts.values()), LESSONS, settled)
    return tuple(numbers[index] for index in best)


def _in_bar(song: Transcription, bar: Bar, onsets: list[Onset], soft: float) -> tuple[Edit, ...]:
    """`soft`: the loudness below which a snare stroke is a ghost."""
    hits = list(song.hits_of(bar.number))
    free = list(onsets)
    after: list[Hit] = []
    for hit in hits:
        match = next(
            (
                o
                for o in sorted(free, key=lambda o: abs(o.time - hit.time))
                if o.instrument is hit.instrument and abs(o.time - hit.time) < SAME_STROKE
            ),
            None,
        )
        if match is not None:
            free.remove(match)
        if hit.settled or hit.status in (Status.LEFT_OUT, Status.INFERRED):
            after.append(hit)
        elif match is None:
            continue
        elif hit.is_uncertain and match.confidence >= UNCERTAIN_BELOW:
            after.append(
                replace(
                    hit,
                    status=Status.HEARD,
                    confidence=match.confidence,
                    reason="surer, by what was settled elsewhere",
                )
            )
        else:
            after.append(hit)
    taken = {(hit.position, hit.instrument) for hit in hits}
    for onset in free:
        position = nearest_place(song, bar, onset.time)
        if (position, onset.instrument) in taken:
            continue
        taken.add((position, onset.instrument))
        after.append(
            Hit(
                time=onset.time,
                instrument=onset.instrument,
                velocity=velocity_of(onset.loudness),
                bar=bar.number,
                position=position,
                ghost=onset.instrument is Instrument.SNARE and onset.loudness < soft,
                confidence=onset.confidence,
                status=Status.HEARD if onset.confidence >= UNCERTAIN_BELOW else Status.DOUBTFUL,
                reason="heard again, by what was settled elsewhere",
            )
        )
    return _edits(hits, _with_limbs(after, bar))


def _with_limbs(hits: list[Hit], bar: Bar) -> list[Hit]:
    """New notes get a limb; what is there keeps its own."""
    given = {hit.place: hit for hit in assign_limbs(hits, bar.meter.pulses)}
    return [hit if hit.limb is not None else given[hit.place] for hit in hits]


def _edits(before: list[Hit], after: list[Hit]) -> tuple[Edit, ...]:
    """As edits; a stroke that is now another drum's at the same place is one change."""
    old = {hit.place: hit for hit in before}
    new = {hit.place: hit for hit in after}
    gone = [hit for place, hit in old.items() if place not in new]
    come = [hit for place, hit in new.items() if place not in old]
    edits = [Edit(hit, new[place]) for place, hit in old.items() if new.get(place, hit) != hit]
    for hit in gone:
        there = [o for o in come if o.position == hit.position]
        kin = (o for o in there if are_kin(o.instrument, hit.instrument))
        other = next(kin, there[0] if there else None)
        if other is not None:
            come.remove(other)
        edits.append(Edit(hit, other))
    return (*edits, *(Edit(None, hit) for hit in come))


def nearest_place(song: Transcription, bar: Bar, time: float) -> Fraction:
    """The place of the bar's grid, in sixteenths at least, that is due nearest to a time."""
    places = [
        (Fraction(beat) + Fraction(step, parts)) / bar.meter.pulses
        for beat, divisions in enumerate(bar.divisions)
        for parts in [4 if 4 % divisions == 0 else divisions]
        for step in range(parts)
    ]
    return min(places, key=lambda place: abs(written_time(song, bar.number, place) - time))
