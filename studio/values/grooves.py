"""What the Grooves stage shows, as plain values: phrases, changes, kinds, evidence, proposals."""

from __future__ import annotations

import hashlib
import json
from bisect import bisect_left
from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import Any

import numpy as np

from orchesis.chart.excerpt import excerpt_svg
from orchesis.chart.options import ChartOptions
from orchesis.edits.edit import edit_to_json
from orchesis.edits.make import settled_bars
from orchesis.edits.relisten import contradictions, lessons, propose
from orchesis.edits.review_queue import ReviewQuestion, answer_words, review_queue
from orchesis.errors import Missing
from orchesis.groove.alike import kinds_of_bars
from orchesis.groove.change import changes_between
from orchesis.groove.coordination import coordination
from orchesis.groove.count import SCHOOLS, spoken_count
from orchesis.groove.inferred import Proposal, by_convention, from_the_bass, from_the_pattern
from orchesis.groove.phrase import Phrase, PhraseNote, Standing, find_phrases
from orchesis.groove.telling import facts
from orchesis.groove.variants import find_variants
from orchesis.lexicon.match import Entry, entry_of, matches
from orchesis.limbs.difficulty import difficulty, hard_spots
from orchesis.limbs.kit import Player
from orchesis.limbs.lanes import lane_strengths
from orchesis.limbs.playable import problems_of
from orchesis.listening.evidence import Evidence, bass_onsets, cell_strengths
from orchesis.listening.judge import load_judge
from orchesis.music.instruments import Instrument, Limb, Ornament
from orchesis.music.json import hit_to_json
from orchesis.music.values import Bar, Hit, Section, Transcription
from studio.artefacts import is_there
from studio.models import OwnRhythm, Song
from studio.values.evidence import evidence_beside, own_evidence
from studio.values.kits import song_player, stamp_of
from studio.values.presenting import cell_values

NO_EVIDENCE = "No evidence is kept for this song: listen to it again."
LEAST_SHOWN = 0.05
SHADES = 9
"""Evidence is shown in so many steps: a digit for each cell."""


def groove_values(
    song: Song, score: Transcription, before: Mapping[str, Any] | None = None
) -> dict[str, Any]:
    """All that is found about the grooves, section by section.

    before : the same of an earlier revision: sections that nothing touched are taken from it.
    """
    evidence = own_evidence(song)
    bass = bass_onsets(evidence) if evidence else []
    known = {values["stamp"]: values for values in (before or {}).get("sections", [])}
    main: dict[str, Phrase] = {}
    levels: dict[str, float] = {}
    sections = []
    player, own = song_player(song), own_entries(song.owner_id)
    stamps = _Stamps(song, score, player, own)
    for section in score.sections:
        stamp = stamps.of(section)
        values = known.get(stamp)
        if values is None:
            values = {
                "stamp": stamp,
                **_section_values(score, section, evidence, bass, player, own),
            }
        sections.append(values)
        if section.mark and values["phrases"]:
            longest = max(values["phrases"], key=lambda phrase: int(phrase["bars"]))
            main[section.label] = phrase_of_values(longest)
            levels[section.label] = _level(song, score, section)
    done = settled_bars(score)
    return {
        "sections": sections,
        "variants": [
            {"layer": found.layer, "words": found.words}
            for found in find_variants(main, levels, score.meter)
        ],
        "review": [
            *_counting_values(song, score),
            *(_question_values(one) for one in review_queue(score, evidence)),
        ],
        "settled_bars": sorted(done),
        "lessons": list(lessons(score, evidence)) if evidence else [],
    }


COUNTING = "counting"
MOST_READINGS = 4


def _counting_values(song: Song, score: Transcription) -> list[dict[str, Any]]:
    """How the song is counted, as the first question, until somebody has said so."""
    confirmed = (song.header or {}).get("confirmed", [])
    if len(score.readings) < 2 or "meter" in confirmed:
        return []
    backbeats = (hit.bar for hit in score.hits if hit.instrument is Instrument.SNARE)
    played = next(backbeats, score.bars[0].number)
    return [
        {
            "key": COUNTING,
            "kind": COUNTING,
            "words": "How is the song counted?",
            "bars": [played],
            "places": [],
            "examples": [],
            "is_missing": False,
            "answers": [
                {"value": reading.key, "words": reading.words}
                for reading in score.readings[:MOST_READINGS]
            ],
        }
    ]


def _question_values(question: ReviewQuestion) -> dict[str, Any]:
    return {
        "key": question.key,
        "kind": question.kind.value,
        "words": question.words,
        "bars": sorted({hit.bar for hit in question.hits}),
        "places": [_place_values(hit) for hit in question.hits],
        "examples": [hit_to_json(hit) for hit in question.examples],
        "is_missing": question.is_missing,
        "answers": [
            {"value": answer, "words": answer_words(question, answer)}
            for answer in question.answers
        ],
    }


def _place_values(hit: Hit) -> dict[str, Any]:
    return {"bar": hit.bar, "position": str(hit.position), "instrument": hit.instrument.value}


def bar_svg(score: Transcription, number: int) -> str:
    """One bar on the staff, as SVG. Raises InvalidTranscription where there is no such bar."""
    score.bar(number)
    return excerpt_svg(score, ChartOptions(first_bar=number, last_bar=number, times=False))


class _Stamps:
    """What the findings of a section rest on, in short: its bars, their notes, fills, evidence."""

    def __init__(
        self, song: Song, score: Transcription, player: Player, own: Sequence[Entry]
    ) -> None:
        self._player = stamp_of(player)
        self._own = [entry.name for entry in own]
        self._bars = {bar["number"]: bar for bar in (song.header or {})["bars"]}
        # Every change of a bar's notes raises its revision.
        rows = song.bars.values_list("number", "pk", "revision")
        self._notes = {number: (pk, revision) for number, pk, revision in rows}
        self._fills = [(fill.bar, repr(fill)) for fill in score.fills]
        self._evidence = song.heard if is_there(song.evidence_path) else 0

    def of(self, section: Section) -> str:
        """Another one whenever any of it is another."""
        numbers = range(section.first_bar, section.first_bar + section.bars)
        told = json.dumps(
            [
                section.label,
                section.first_bar,
                section.bars,
                [self._bars.get(number) for number in numbers],
                [self._notes.get(number) for number in numbers],
                [fill for bar, fill in self._fills if bar in numbers],
                self._evidence,
                self._player,
                self._own,
            ]
        )
        return hashlib.sha256(told.encode()).hexdigest()[:12]


def _section_values(
    score: Transcription,
    section: Section,
    evidence: Evidence | None,
    bass: list[float],
    player: Player,
    own: Sequence[Entry],
) -> dict[str, Any]:
    bars, hits = score.bars_in(section), score.hits_in(section)
    phrases = find_phrases(bars, hits, score.fills)
    main = max(phrases, key=lambda phrase: phrase.bars, default=None)
    changes = changes_between(phrases, bars, hits, score.fills)
    proposals: list[Proposal | None] = []
    if evidence is not None:
        proposals.append(from_the_bass(bars, hits, bass))
        proposals.append(by_convention(bars, hits, evidence.strength))
        proposals += [
            from_the_pattern(phrase, bars, hits, score.fills, evidence.strength)
            for phrase in phrases
        ]
    return {
        "first_bar": section.first_bar,
        "label": section.label,
        "phrases": [phrase_values(phrase) for phrase in phrases],
        "changes": [
            {"bar": change.bar, "words": change.words, "evidence": change.evidence}
            for change in changes
        ],
        "names": _names_of(main, score, own) if main else [],
        "facts": [
            {
                "words": fact.words,
                "notes": [
                    {"bar": bar, "position": str(position), "instrument": instrument.value}
                    for bar, position, instrument in fact.places
                ],
            }
            for fact in (facts(main, score.meter) if main else ())
        ],
        "difficulty": _difficulty_values(main, bars) if main else None,
        "unplayable": [
            {
                "bar": problem.bar,
                "position": str(problem.position),
                "words": f"{problem.words}: {problem.remedy}.",
            }
            for problem in problems_of(hits, score.meter.pulses, player)
        ],
        "kinds": [list(kind.bars) for kind in kinds_of_bars(bars, hits) if len(kind.bars) > 1],
        "proposals": [
            {
                "kind": proposal.kind,
                "words": proposal.words,
                "hits": [hit_to_json(hit) for hit in proposal.hits],
            }
            for proposal in proposals
            if proposal is not None
        ],
    }


def _names_of(phrase: Phrase, score: Transcription, own: Sequence[Entry]) -> list[dict[str, str]]:
    """What of the lexicon the phrase is, or has in one voice, at its own tempo."""
    tempo = _tempo_of(phrase, score)
    return [
        {"words": match.words, "tradition": match.entry.tradition}
        for match in matches(typical_bars(phrase), score.meter.pulses, own, tempo)
    ]


def _tempo_of(phrase: Phrase, score: Transcription) -> float:
    """In whole beats a minute, of the bars of the phrase: sections may differ."""
    bars = [score.bar(phrase.first_bar + index) for index in range(phrase.bars)]
    return float(round(np.median([60 * len(bar.beats) / (bar.end - bar.start) for bar in bars])))


def typical_bars(phrase: Phrase) -> list[frozenset[tuple[Fraction, Instrument]]]:
    """The notes of each bar of a phrase, without occasional ones and ghosts."""
    return [
        frozenset(
            (note.position, note.instrument)
            for note in phrase.notes
            if note.bar == step and note.standing is not Standing.OCCASIONAL and not note.ghost
        )
        for step in range(phrase.length)
    ]


def main_phrase_of(score: Transcription, section: Section) -> Phrase | None:
    """The phrase that most bars of a section play."""
    phrases = find_phrases(score.bars_in(section), score.hits_in(section), score.fills)
    return max(phrases, key=lambda phrase: phrase.bars, default=None)


def own_entries(owner_id: int) -> tuple[Entry, ...]:
    """The lexicon of an account."""
    rows = OwnRhythm.objects.filter(owner=owner_id).values_list("entry", flat=True)
    return tuple(entry_of(entry) for entry in rows)


def _difficulty_values(phrase: Phrase, bars: Sequence[Bar]) -> dict[str, Any]:
    """How hard the typical phrase is, and where it resists."""
    mine = [bar for bar in bars if 0 <= bar.number - phrase.first_bar < phrase.length]
    # As if all of it were in the recording, which may begin within its first bar.
    cut_off = max(0.0, -mine[0].start) if mine else 0.0
    hits = [
        Hit(
            time=cut_off + bar.time_at(note.position),
            instrument=note.instrument,
            velocity=max(1, note.velocity),
            bar=bar.number,
            position=note.position,
            ghost=note.ghost,
            accent=note.accent,
            limb=note.limb,
        )
        for bar in mine
        for note in phrase.notes
        if note.bar == bar.number - phrase.first_bar and note.standing is not Standing.OCCASIONAL
    ]
    found = difficulty(mine, hits)
    return {
        "value": found.value,
        "words": found.words,
        "spots": [
            {"bar": spot.bar, "position": str(spot.position), "words": f"{spot.words}."}
            for spot in hard_spots(mine, hits)
        ],
    }


def phrase_values(phrase: Phrase) -> dict[str, Any]:
    """A phrase with its notes."""
    return {
        "first_bar": phrase.first_bar,
        "bars": phrase.bars,
        "length": phrase.length,
        "words": phrase.words,
        "odds": round(phrase.odds, 2),
        "notes": [_note_values(note) for note in phrase.notes],
    }


def _note_values(note: PhraseNote) -> dict[str, Any]:
    return {
        "bar": note.bar,
        "position": str(note.position),
        "instrument": note.instrument.value,
        "standing": note.standing.value,
        "share": round(note.share, 3),
        "count": note.count,
        "asked": note.asked,
        "velocity": note.velocity,
        "ghost": note.ghost,
        "accent": note.accent,
        "limb": note.limb.value if note.limb else None,
        "ornament": note.ornament.value if note.ornament else None,
        "opening": note.opening,
    }


def phrase_of_values(values: Mapping[str, Any]) -> Phrase:
    """A phrase again, from `phrase_values`."""
    return Phrase(
        first_bar=values["first_bar"],
        bars=values["bars"],
        length=values["length"],
        odds=values["odds"],
        notes=tuple(
            PhraseNote(
                **{
                    **note,
                    "position": Fraction(note["position"]),
                    "instrument": Instrument(note["instrument"]),
                    "standing": Standing(note["standing"]),
                    "limb": Limb(note["limb"]) if note["limb"] else None,
                    "ornament": Ornament(note["ornament"]) if note["ornament"] else None,
                }
            )
            for note in values["notes"]
        ),
    )


def _level(song: Song, score: Transcription, section: Section) -> float:
    """The loudness of a section in dB, from the ribbon's curve of the whole record."""
    curve = np.asarray(song.loudness or [1.0], dtype=float)
    scale = len(curve) / max(score.duration, 1e-3)
    first = min(len(curve) - 1, int(section.start * scale))
    piece = curve[first : max(first + 1, int(section.end * scale))]
    return float(20 * np.log10(max(1e-4, float(piece.mean()))))


def shade_values(
    song: Song, score: Transcription, first: int, last: int, source: int | None
) -> list[dict[str, Any]]:
    """How strongly something was heard in each cell of these bars, per lane as a row of digits.

    Raises Missing where no evidence is kept.
    """
    evidence = own_evidence(song)
    if source is not None:
        evidence = next((e for pk, _, e in evidence_beside(song) if pk == source), None)
    if evidence is None:
        raise Missing(NO_EVIDENCE)
    numbers = [hit.bar for hit in score.hits]
    values = []
    for bar in score.bars:
        if not first <= bar.number <= last:
            continue
        cells = cell_values(score, bar)
        heard = cell_strengths(evidence, [cell["time"] for cell in cells], bar.end)
        low = bisect_left(numbers, bar.number)
        mine = score.hits[low : bisect_left(numbers, bar.number + 1)]
        lanes = lane_strengths([cell["position"] for cell in cells], heard, evidence.classes, mine)
        shades = {
            limb.value: "".join(str(round(SHADES * min(1.0, value))) for value in lane)
            for limb, lane in lanes.items()
        }
        values.append({"bar": bar.number, **shades})
    return values


def evidence_values(song: Song, score: Transcription, number: int) -> dict[str, Any]:
    """What was heard in a bar, in the song's own recording and in those beside it."""
    bar = score.bar(number)
    own = own_evidence(song)
    if own is None:
        raise Missing(NO_EVIDENCE)
    return {
        "bar": number,
        "rows": evidence_rows(score, own, bar),
        "sources": [
            {"id": pk, "title": title, "rows": evidence_rows(score, evidence, bar)}
            for pk, title, evidence in evidence_beside(song)
        ],
    }


def evidence_rows(score: Transcription, evidence: Evidence, bar: Bar) -> list[dict[str, Any]]:
    """How strongly each drum is heard in each cell of a bar; drums that never are, are left out."""
    heard = cell_strengths(evidence, [cell["time"] for cell in cell_values(score, bar)], bar.end)
    return [
        {
            "instrument": instrument.value,
            "strength": [round(float(value), 3) for value in heard[:, column]],
        }
        for column, instrument in enumerate(evidence.classes)
        if heard[:, column].max(initial=0.0) >= LEAST_SHOWN
    ]


def relisten_values(song: Song, score: Transcription) -> dict[str, Any]:
    """What the tool would write otherwise, now that some bars are settled."""
    evidence = own_evidence(song)
    if evidence is None:
        raise Missing(NO_EVIDENCE)
    done = settled_bars(score)
    proposals = propose(score, evidence, load_judge())
    edits = [edit for proposal in proposals for edit in proposal.edits]
    return {
        "settled": len(done),
        "added": sum(edit.before is None for edit in edits),
        "removed": sum(edit.after is None for edit in edits),
        "surer": sum(
            edit.before is not None
            and edit.after is not None
            and edit.before.is_uncertain
            and not edit.after.is_uncertain
            for edit in edits
        ),
        "contradictions": [{"bar": one.bar, "words": one.words} for one in contradictions(score)],
        "bars": [
            {"bar": proposal.bar, "edits": [edit_to_json(edit) for edit in proposal.edits]}
            for proposal in proposals
        ],
    }


def saying_values(score: Transcription, first: int, last: int, school: str) -> dict[str, Any]:
    """The spoken count of bars, and what falls together and between in them."""
    words = SCHOOLS[school]
    bars = [bar for bar in score.bars if first <= bar.number <= last]
    hits = [hit for hit in score.hits if first <= hit.bar <= last]
    return {
        "count": spoken_count(bars, hits, words),
        "sentences": list(coordination(bars, hits, words)),
    }
