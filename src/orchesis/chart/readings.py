"""The readings of a song: note for note, the essence of it, and its parts, as written measures.

Each section is folded for itself, so that its letter stands at the head of a line and no sign
looks back over a boundary. In the essence a section is its typical phrase, its fills are written
out, and what the player adds now and then is said in words.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from orchesis.chart.cues import crash_words, cues_of
from orchesis.chart.fold import BRIEF, EXACT, Folding, fold
from orchesis.chart.kept import KeptByIdentity
from orchesis.chart.levels import at_level
from orchesis.chart.options import ChartOptions, Reading
from orchesis.chart.parts import Part, chosen_parts
from orchesis.chart.score import Credits, Heading, Kind, Measure, Score, content_of
from orchesis.groove.count import place_words
from orchesis.groove.phrase import Phrase, Standing, find_phrases
from orchesis.groove.telling import facts
from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Bar, Fill, Hit, Meter, Section, Transcription, written

UNLIKE = 0.5
"""A bar that shares less than this of its strokes with its phrase is no bar of that phrase: it is
written as it was played.
"""

MOST_HINTS = 3
MOST_FACTS = 2
STRAIGHT_UP_TO = 1.12
"""Below this ratio a feel is not marked as swung."""

ACCENTING = frozenset({Instrument.CRASH, Instrument.SPLASH, Instrument.CHINA})


def feel_words(song: Transcription) -> str:
    """The feel as written over the first bar: "swung sixteenths 1.5 : 1", or nothing."""
    parts = []
    for ratio, name in ((song.feel.swing_8, "eighths"), (song.feel.swing_16, "sixteenths")):
        if ratio is not None and ratio > STRAIGHT_UP_TO:
            parts.append(f"swung {name} {ratio:.1f} : 1")
    if song.feel.half_time:
        parts.append("half-time feel")
    return ", ".join(parts)


def make_score(
    song: Transcription, options: ChartOptions, signature: Credits | None = None
) -> Score:
    """The chart of a song in one of its readings.

    The road map has no measures of its own: it is drawn from the essence, see `roadmap`.
    """
    song = _excerpt(song, options)
    makers = {Reading.NOTE_FOR_NOTE: _in_full, Reading.PARTS: _in_parts}
    measures = makers.get(options.reading, _essence)(song, options)
    return score_of(song, measures, options, signature)


def score_of(
    song: Transcription,
    measures: Iterable[Measure],
    options: ChartOptions,
    signature: Credits | None = None,
) -> Score:
    """These measures as a chart, with what the song says at its head and foot."""
    return Score(
        title=song.title or "Untitled",
        tempo_bpm=song.tempo_bpm,
        meter=song.meter,
        feel=song.feel,
        feel_words=feel_words(song),
        measures=tuple(measures),
        options=options,
        credits=signature or Credits(),
    )


def _excerpt(song: Transcription, options: ChartOptions) -> Transcription:
    if not options.first_bar and not options.last_bar:
        return song
    first, last = options.first_bar, options.last_bar or 10**9
    bars = tuple(bar for bar in song.bars if first <= bar.number <= last)
    kept = {bar.number for bar in bars}
    return replace(
        song,
        bars=bars,
        hits=tuple(hit for hit in song.hits if hit.bar in kept),
        sections=tuple(
            replace(section, first_bar=numbers[0], bars=len(numbers))
            for section in song.sections
            if (numbers := [bar.number for bar in song.bars_in(section) if bar.number in kept])
        ),
    )


def sections_of(song: Transcription) -> Iterator[tuple[Section | None, tuple[Bar, ...]]]:
    """The song's bars by section, in order; bars of no section are a stretch without a name."""
    home = {
        number: section
        for section in song.sections
        for number in range(section.first_bar, section.first_bar + section.bars)
    }
    run: list[Bar] = []
    for bar in song.bars:
        if run and home.get(bar.number) is not home.get(run[-1].number):
            yield home.get(run[0].number), tuple(run)
            run = []
        run.append(bar)
    if run:
        yield home.get(run[0].number), tuple(run)


def _heading(section: Section, words: Sequence[str] = ()) -> Heading:
    return Heading(section.label, section.start, section.bars, tuple(words))


def _hits_by_bar(song: Transcription, options: ChartOptions) -> dict[int, tuple[Hit, ...]]:
    found: dict[int, list[Hit]] = defaultdict(list)
    for hit in song.hits:
        found[hit.bar].append(hit)
    return {bar.number: at_level(found[bar.number], bar.meter, options) for bar in song.bars}


def _in_full(song: Transcription, options: ChartOptions) -> list[Measure]:
    hits = _hits_by_bar(song, options)
    cues = cues_of(song)
    measures: list[Measure] = []
    for section, bars in sections_of(song):
        heading = _heading(section) if section else None
        measures += kept_sections.get(
            (hit for bar in bars for hit in hits[bar.number]),
            (
                heading,
                tuple((bar.number, bar.meter, bar.divisions) for bar in bars),
                tuple(len(hits[bar.number]) for bar in bars),
                tuple(cues.get(bar.number, ()) for bar in bars),
            ),
            lambda bars=bars, heading=heading: tuple(  # type: ignore[misc]
                folded(bars, hits, cues, heading, EXACT)
            ),
        )
    return measures


kept_sections: KeptByIdentity[tuple[Measure, ...]] = KeptByIdentity(256)


def folded(
    bars: Sequence[Bar],
    hits: Mapping[int, tuple[Hit, ...]],
    cues: Mapping[int, tuple[str, ...]],
    heading: Heading | None,
    folding: Folding,
) -> list[Measure]:
    """Bars as measures with repeats and signs; those with words over them stay in sight."""
    looks = [(content_of(bar.meter, hits[bar.number]), cues.get(bar.number, ())) for bar in bars]
    empty = [not hits[bar.number] and bar.number not in cues for bar in bars]
    measures: list[Measure] = []
    for piece in fold(looks, empty, folding):
        bar = bars[piece.index]
        kind = Kind.REST if piece.is_rest else Kind.REPEAT if piece.span else Kind.WRITTEN
        measures.append(
            Measure(
                number=bar.number,
                meter=bar.meter,
                hits=hits[bar.number] if kind is Kind.WRITTEN else (),
                kind=kind,
                span=piece.span or 1,
                plays=tuple(bars[index].number for index in piece.passes),
                opens_repeat=piece.opens_repeat,
                times=piece.times,
                ending=piece.ending,
                ending_opens=piece.ending_opens,
                ending_closes=piece.ending_closes,
                heading=heading if not measures else None,
                cues=cues.get(bar.number, ()),
                divisions=bar.divisions,
            )
        )
    return measures


def _essence(song: Transcription, options: ChartOptions) -> list[Measure]:
    cues = cues_of(song)
    measures: list[Measure] = []
    for section, bars in sections_of(song):
        phrases = find_phrases(bars, _of(song, bars), song.fills)
        played, told = essence_of(song, bars, phrases, options)
        spoken = {number: words for number, words in cues.items() if number in played}
        for number, words in told.items():
            spoken[number] = (*spoken.get(number, ()), words)
        over = hints(phrases, bars[0].meter, options)
        if options.facts and phrases:
            over += [fact.words for fact in facts(phrases[0], bars[0].meter)[:MOST_FACTS]]
        heading = _heading(section, over) if section else None
        measures += folded(bars, played, spoken, heading, BRIEF)
    return measures


def _of(song: Transcription, bars: Sequence[Bar]) -> list[Hit]:
    numbers = {bar.number for bar in bars}
    return [hit for hit in song.hits if hit.bar in numbers]


def essence_of(
    song: Transcription, bars: Sequence[Bar], phrases: Sequence[Phrase], options: ChartOptions
) -> tuple[dict[int, tuple[Hit, ...]], dict[int, str]]:
    """What each bar of a section plays in the essence, and the cymbals said in words.

    Fills are as they were played, and so is a bar that has little of its phrase.
    """
    own: dict[int, list[Hit]] = defaultdict(list)
    for hit in written(_of(song, bars)):
        own[hit.bar].append(hit)
    home = {
        phrase.first_bar + step: (phrase, step % phrase.length)
        for phrase in phrases
        for step in range(phrase.bars)
    }
    played: dict[int, tuple[Hit, ...]] = {}
    told: dict[int, str] = {}
    for bar in bars:
        phrase, phase = home.get(bar.number, (None, 0))
        typical = _typical(bar, phrase, phase) if phrase else []
        mine = own[bar.number]
        fill = next((f for f in song.fills if f.begins_in <= bar.number <= f.bar), None)
        if fill is not None:
            notes = _with_fill(bar, mine, typical, fill)
        elif not phrase or bar.meter != _meter_of(bars, phrase) or _is_unlike(mine, typical):
            notes = mine
        else:
            notes = typical
            extra = [
                hit
                for hit in mine
                if hit.instrument in ACCENTING and hit.place not in {t.place for t in typical}
            ]
            if words := crash_words(bar, extra, options.words):
                told[bar.number] = words
        played[bar.number] = at_level(notes, bar.meter, options)
    return played, told


def _meter_of(bars: Sequence[Bar], phrase: Phrase) -> Meter:
    return next(bar.meter for bar in bars if bar.number == phrase.first_bar)


def _typical(bar: Bar, phrase: Phrase, phase: int) -> list[Hit]:
    """The notes of the phrase that belong into this bar, as strokes of it."""
    return [
        note.in_bar(bar)
        for note in phrase.notes
        if note.bar == phase and note.standing is not Standing.OCCASIONAL
    ]


def _with_fill(bar: Bar, mine: list[Hit], typical: list[Hit], fill: Fill) -> list[Hit]:
    """The groove up to the fill, then the fill as it was played."""
    start = fill.at if fill.begins_in == bar.number else Fraction(0)
    before = [hit for hit in typical if hit.position < start]
    notes = [*before, *(hit for hit in mine if hit.position >= start)]
    return sorted(notes, key=lambda hit: (hit.position, hit.instrument.value))


def _is_unlike(mine: Sequence[Hit], typical: Sequence[Hit]) -> bool:
    sure = {hit.place for hit in mine if not (hit.is_uncertain or hit.ghost)}
    asked = {hit.place for hit in typical if not hit.ghost}
    every = sure | asked
    return bool(every) and len(sure & asked) < UNLIKE * len(every)


def hints(phrases: Sequence[Phrase], meter: Meter, options: ChartOptions) -> list[str]:
    """What the player adds now and then, said: "kick may also play & of 3"."""
    found: dict[str, list[str]] = defaultdict(list)
    for phrase in phrases[:1]:
        for note in sorted(phrase.notes, key=lambda note: -note.share):
            if note.standing is not Standing.OCCASIONAL or note.instrument in ACCENTING:
                continue
            hit = Hit(0.0, note.instrument, 64, 1, note.position, ghost=note.ghost, limb=note.limb)
            if not at_level([hit], meter, options):
                continue
            where = place_words(note.position, meter, options.words)
            if phrase.length > 1:
                where += f" in bar {note.bar + 1}"
            name = SPOKEN_NAMES[note.instrument]
            places = found[f"{name} ghost" if note.ghost else name]
            if where not in places and sum(map(len, found.values())) < MOST_HINTS:
                places.append(where)
    return [f"{name} may also play {', '.join(where)}" for name, where in found.items() if where]


def _in_parts(song: Transcription, options: ChartOptions) -> list[Measure]:
    hits = _hits_by_bar(song, options)
    measures: list[Measure] = []
    for order, part in enumerate(chosen_parts(song), 1):
        bars = [song.bar(number) for number in range(part.first_bar, part.first_bar + part.bars)]
        measures += _part(part, order, bars, hits)
    return measures


def _part(
    part: Part, order: int, bars: Sequence[Bar], hits: Mapping[int, tuple[Hit, ...]]
) -> list[Measure]:
    heading = Heading(f"Part {order}", bars[0].start, len(bars), (part.words,))
    return [
        Measure(
            number=bar.number,
            meter=bar.meter,
            hits=hits[bar.number],
            plays=tuple(first + step for first in part.places),
            heading=heading if not step else None,
            divisions=bar.divisions,
        )
        for step, bar in enumerate(bars)
    ]
