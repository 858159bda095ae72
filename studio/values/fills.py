"""What the Fills stage shows, as plain values: every fill in words, its ways to play, its kin."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

from orchesis.chart.excerpt import excerpt_svg
from orchesis.chart.options import Beside, ChartOptions
from orchesis.errors import Missing
from orchesis.fills.describe import (
    Described,
    describe_fill,
    is_inside,
    length_in_beats,
    places_of,
)
from orchesis.fills.families import (
    KINSHIP_WORDS,
    Kinship,
    Strokes,
    families,
    family_words,
    kinship,
    notes_of,
    place_in_form,
)
from orchesis.fills.hands import hands_of_fill, letters_of
from orchesis.fills.variations import exercises
from orchesis.groove.count import SCHOOLS
from orchesis.groove.phrase import Phrase, find_phrases
from orchesis.limbs.kit import Player
from orchesis.limbs.playable import Problem, folded, overdub_words, problems_of
from orchesis.limbs.rudiments import name_of
from orchesis.limbs.steady import steady_words
from orchesis.limbs.ways import Way
from orchesis.music.instruments import Limb, Ornament
from orchesis.music.json import bar_to_json, hit_to_json
from orchesis.music.values import Bar, Fill, Hit, Section, Transcription, written
from studio.models import Song
from studio.values.presenting import cell_values
from studio.values.stored import load_transcription


def fills_values(score: Transcription, player: Player, school: str) -> dict[str, Any]:
    """All that is said of a song's fills, in order, and the families that they belong to."""
    words = SCHOOLS[school]
    by_bar = _by_bar(score.hits)
    described = [
        describe_fill(fill, *_about(fill, score, by_bar), words=words) for fill in score.fills
    ]
    groups = families([notes_of(one.places, one.beats) for one in described])
    member_of = {m.index: (family, m) for family in groups for m in family.members}
    return {
        "fills": [
            {
                **_place_values(one.fill),
                **_word_values(one),
                "form": place_in_form(one.fill, score.sections).removeprefix(", "),
                "family": member_of[index][0].name,
                "kinship": member_of[index][1].kinship.value,
                "kinship_words": KINSHIP_WORDS[member_of[index][1].kinship],
                "ways": _way_values(one, score, by_bar, player),
                "problems": _problem_values(one.fill, score, by_bar, player),
            }
            for index, one in enumerate(described)
        ],
        "families": [
            {"name": family.name, "words": family_words(family, score.fills, score.sections)}
            for family in groups
        ],
        "on_this_kit": {
            "words": [
                *steady_words(score.hits, score.sections, player),
                *folded(score.hits, player)[1],
                *overdub_words(score.hits, player),
            ],
            "problems": [
                problem_values(problem)
                for problem in problems_of(score.hits, score.meter.pulses, player)
            ],
        },
    }


def exercise_values(score: Transcription, bar: int, player: Player) -> list[dict[str, Any]]:
    """The variations of the fill that ends in a bar, each as bars to be shown like any others.

    Raises Missing where no fill ends there.
    """
    fill = _fill_in(score, bar)
    home = score.bar(bar)
    section = score.section_of(bar)
    phrase = _phrase_at(score, section, bar) if section else None
    found = exercises(fill, score.bars, score.hits, phrase, player)
    return [
        {
            "key": one.key,
            "name": one.name,
            "words": one.words,
            "bars": [
                _bar_values(score, home, notes, index) for index, notes in enumerate(one.bars)
            ],
        }
        for one in found
    ]


def exercise_of(
    score: Transcription, bar: int, key: str, player: Player
) -> tuple[str, tuple[Bar, ...], tuple[Hit, ...]]:
    """A variation of a fill laid over the bars of the song that end with it: name, bars, notes.

    Raises Missing where there is no such variation, or the song has too few bars before.
    """
    fill = _fill_in(score, bar)
    section = score.section_of(bar)
    phrase = _phrase_at(score, section, bar) if section else None
    for one in exercises(fill, score.bars, score.hits, phrase, player):
        if one.key == key:
            last = bar - score.bars[0].number + 1
            bars = score.bars[max(0, last - len(one.bars)) : last]
            if len(bars) < len(one.bars) or any(b.meter != bars[-1].meter for b in bars):
                break
            hits = tuple(
                replace(hit, bar=own.number, time=own.stroke_at(hit.position))
                for own, notes in zip(bars, one.bars, strict=True)
                for hit in notes
            )
            return one.name, tuple(bars), hits
    raise Missing("this exercise is no longer there: take it off the list")


def staff_svg(score: Transcription, bar: int, way: int, player: Player) -> str:
    """The bars of a fill on the staff, with the hands of one of its ways below, as SVG.

    way : its place among the fill's ways; where there are fewer, no hands are written. Raises
    Missing where no fill ends in that bar.
    """
    fill = _fill_in(score, bar)
    by_bar = _by_bar(score.hits)
    described = describe_fill(fill, *_about(fill, score, by_bar))
    found = _way_values(described, score, by_bar, player)
    hands = found[way]["hands"] if way < len(found) else []
    letters = {(item["bar"], Fraction(item["position"])): item["letter"] for item in hands}
    options = ChartOptions(
        first_bar=fill.begins_in, last_bar=fill.bar, sticking=Beside.BELOW, times=False
    )
    return excerpt_svg(score, options, letters)


def _fill_in(score: Transcription, bar: int) -> Fill:
    fill = next((fill for fill in score.fills if fill.bar == bar), None)
    if fill is None:
        raise Missing("no fill ends in this bar")
    return fill


MOST_SONGS = 60
"""Of an account: the newest, in which fills are looked for that are kin."""

MOST_ELSEWHERE = 12


def fills_elsewhere(song: Song, score: Transcription, bar: int) -> list[dict[str, Any]]:
    """Fills of the owner's other songs that are kin to one of this song, the nearest first."""
    mine = _notes_of(score, _fill_in(score, bar))
    order = list(Kinship)
    found = []
    others = Song.objects.filter(owner=song.owner_id, revision__gt=0, is_copy_for=None)
    others = others.exclude(pk=song.pk)
    for other in others.order_by("-updated_at")[:MOST_SONGS]:
        for fill_bar, notes in _kept_notes(other):
            how = kinship(mine, notes)
            if how is not None:
                found.append((order.index(how), other.title, str(other.pk), fill_bar, how))
    return [
        {"song": pk, "title": title, "bar": fill_bar, "words": KINSHIP_WORDS[how]}
        for _, title, pk, fill_bar, how in sorted(found)[:MOST_ELSEWHERE]
    ]


def _notes_of(score: Transcription, fill: Fill) -> Strokes:
    by_bar = _by_bar(score.hits)
    bars, hits = _about(fill, score, by_bar)
    return notes_of(places_of(fill, bars, hits), length_in_beats(fill, bars))


_notes_kept: OrderedDict[tuple[Any, int], list[tuple[int, Strokes]]] = OrderedDict()
SONGS_KEPT = 500


def _kept_notes(song: Song) -> list[tuple[int, Strokes]]:
    """The notes of a song's fills, kept in the process for each revision."""
    key = (song.pk, song.revision)
    if key not in _notes_kept:
        score = load_transcription(song)
        _notes_kept[key] = [(fill.bar, _notes_of(score, fill)) for fill in score.fills]
        while len(_notes_kept) > SONGS_KEPT:
            _notes_kept.popitem(last=False)
    return _notes_kept[key]


def _phrase_at(score: Transcription, section: Section, bar: int) -> Phrase | None:
    phrases = find_phrases(score.bars_in(section), score.hits_in(section), score.fills)
    inside = [p for p in phrases if p.first_bar <= bar < p.first_bar + p.bars]
    return inside[0] if inside else (phrases[0] if phrases else None)


def _bar_values(
    score: Transcription, home: Bar, notes: Sequence[Hit], index: int
) -> dict[str, Any]:
    """A bar of an exercise in the metre of its fill's bar, numbered from 1, at its tempo."""
    length = home.end - home.start
    shift = index * length - home.start
    moved = Bar(
        number=index + 1,
        start=round(home.start + shift, 4),
        end=round(home.end + shift, 4),
        meter=home.meter,
        beats=tuple(beat + shift for beat in home.beats),
        divisions=home.divisions,
    )
    hits = [
        {**hit_to_json(hit), "bar": index + 1, "time": round(moved.time_at(hit.position), 4)}
        for hit in notes
    ]
    return {**bar_to_json(moved), "cells": cell_values(score, home), "hits": hits, "revision": 0}


def _by_bar(hits: Sequence[Hit]) -> dict[int, list[Hit]]:
    found: dict[int, list[Hit]] = {}
    for hit in written(hits):
        found.setdefault(hit.bar, []).append(hit)
    return found


def _about(
    fill: Fill, score: Transcription, by_bar: dict[int, list[Hit]]
) -> tuple[list[Bar], list[Hit]]:
    """The bars of a fill and the one after it, with their notes."""
    first = score.bars[0].number
    bars = list(score.bars[fill.begins_in - first : fill.bar - first + 2])
    return bars, [hit for bar in bars for hit in by_bar.get(bar.number, [])]


def _place_values(fill: Fill) -> dict[str, Any]:
    return {
        "bar": fill.bar,
        "first_bar": fill.begins_in,
        "at": str(fill.at),
        "until": str(fill.until),
        "start": fill.start,
        "end": fill.end,
        "settled": fill.settled,
    }


def _word_values(one: Described) -> dict[str, Any]:
    return {
        "words": one.words,
        "where": one.where,
        "beats": float(one.beats),
        "subdivisions": [{"name": name, "at": at} for name, at in one.subdivisions],
        "grouping": one.grouping,
        "path": one.path,
        "hands_and_feet": one.hands_and_feet,
        "accents": one.accents,
        "lead_in": one.lead_in,
        "landing": one.landing,
        "count": one.count,
        "is_linear": one.is_linear,
    }


def _way_values(
    one: Described, score: Transcription, by_bar: dict[int, list[Hit]], player: Player
) -> list[dict[str, Any]]:
    """The ways to stick a fill, the most natural first, each with a hand for every stroke.

    The one that the score has is marked; it comes first where it is none of those that are offered.
    """
    _, hits = _about(one.fill, score, by_bar)
    found = hands_of_fill(one.fill, hits, len(score.bar(one.fill.bar).beats), player)
    ornaments: list[Ornament | None] = [stroke.ornament for stroke in found.strokes]
    return [
        {
            "name": way.school,
            "is_current": index == found.current,
            "reason": way.reason,
            "hands": [
                {
                    "bar": group[0].bar,
                    "position": str(group[0].position),
                    "letter": letters_of([choice]),
                }
                for group, choice in zip(found.groups, way.hands, strict=True)
            ],
            "cost": round(way.cost, 1),
            "costs": _cost_words(way),
            "closes": bool(way.closing and way.closing.closes),
            "closing": way.closing.words if way.closing else "",
            "changed": " ".join(letters_of(changed)) if (changed := _changed(way)) else "",
            "rudiment": named.words if (named := name_of(way.letters, ornaments)) else "",
        }
        for index, way in enumerate(found.ways)
    ]


def _changed(way: Way) -> Sequence[Sequence[Limb]] | None:
    return way.closing.changed if way.closing else None


COUNTED = (
    ("doubles", "one double", "doubles"),
    ("accents by the other hand", "one accent by the other hand", "accents by the other hand"),
    ("beats by the other hand", "one beat by the other hand", "beats by the other hand"),
)
"""What a way costs, by number."""


def _cost_words(way: Way) -> str:
    """What a way costs, in words: "2 doubles; up to 8 strokes a second of one hand"."""
    counted = [
        f"{count} {several}" if (count := int(way.parts[name])) > 1 else one
        for name, one, several in COUNTED
        if way.parts[name]
    ]
    rate = way.parts["strokes a second of one hand"]
    return "; ".join([*counted, f"up to {rate:g} strokes a second of one hand"])


def _problem_values(
    fill: Fill, score: Transcription, by_bar: dict[int, list[Hit]], player: Player
) -> list[dict[str, Any]]:
    _, hits = _about(fill, score, by_bar)
    inside = [hit for hit in hits if is_inside(hit, fill)]
    beats = len(score.bar(fill.bar).beats)
    return [problem_values(problem) for problem in problems_of(inside, beats, player)]


def problem_values(problem: Problem) -> dict[str, Any]:
    """A place that cannot be played, why, and what one plays instead."""
    return {
        "kind": problem.kind.value,
        "bar": problem.bar,
        "position": str(problem.position),
        "words": problem.words,
        "remedy": problem.remedy,
    }
