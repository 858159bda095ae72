"""Twenty songs that are hard to engrave: crowded, odd, wordy, with every sign that there is."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import cache
from random import Random

from orchesis.music.instruments import FEET, Instrument, Limb, Ornament, Status
from orchesis.music.values import Bar, Cue, Feel, Hit, Meter, Section, Transcription, in_order

I = Instrument  # noqa: E741
HANDS = [I.HIHAT_CLOSED, I.SNARE, I.TOM_HIGH, I.TOM_MID, I.TOM_FLOOR, I.RIDE, I.CRASH, I.HIHAT_OPEN,
         I.CROSS_STICK, I.COWBELL, I.CHINA, I.RIDE_BELL]  # fmt: skip
LABELS = ("Intro", "Verse with a very long name indeed", "Chorus", "Bridge", "Solo", "Outro")
CUES = ("vocals in", "stop", "watch the singer, then all together on the one", "build")


def composed(
    seed: int,
    meters: list[Meter],
    *,
    bars: int = 24,
    divisions: tuple[int, ...] = (1, 2, 4),
    density: float = 0.7,
    chords: int = 2,
    beside: bool = False,
    feel: Feel | None = None,
    sections: int = 4,
    cues: int = 0,
    ornaments: float = 0.0,
    doubts: float = 0.0,
    ghosts: float = 0.1,
) -> Transcription:
    """A song by chance, the same for each seed; as dense and as odd as it is asked to be."""
    random = Random(seed)
    made: list[Bar] = []
    hits: list[Hit] = []
    now = 0.5
    for number in range(1, bars + 1):
        meter = meters[(number // 4) % len(meters)]
        beat = 0.5
        beats = tuple(now + step * beat for step in range(meter.pulses))
        parts = tuple(random.choice(divisions) for _ in range(meter.pulses))
        bar = Bar(number, now, now + beat * meter.pulses, meter, beats, parts)
        made.append(bar)
        for index, many in enumerate(parts):
            for step in range(many):
                place = (Fraction(index) + Fraction(step, many)) / meter.pulses
                hits += _strokes(random, bar, place, density, chords, ornaments, doubts, ghosts)
                if beside and random.random() < 0.8:
                    drum = random.choice([I.SHAKER, I.TAMBOURINE, I.CLAP])
                    hits.append(Hit(bar.time_at(place), drum, 70, number, place))
        now = bar.end
    each = bars // sections
    form = tuple(
        Section(
            LABELS[index % len(LABELS)],
            made[index * each].start,
            made[(index + 1) * each - 1].end,
            each,
            index * each + 1,
        )
        for index in range(sections)
    )
    return Transcription(
        tempo_bpm=120.0,
        meter=meters[0],
        beats=tuple(beat for bar in made for beat in bar.beats),
        bars=tuple(made),
        sections=form,
        hits=tuple(sorted(hits, key=in_order)),
        cues=tuple(
            Cue(made[random.randrange(bars)].start, CUES[index % len(CUES)])
            for index in range(cues)
        ),
        feel=feel or Feel(1.0, 1.0),
        title="A song whose title is as long as a title can be before it leaves the page",
        duration=now + 1.0,
    )


def _strokes(
    random: Random,
    bar: Bar,
    place: Fraction,
    density: float,
    chords: int,
    ornaments: float,
    doubts: float,
    ghosts: float,
) -> list[Hit]:
    found: list[Hit] = []
    if random.random() < density:
        drums = random.sample(HANDS, random.randint(1, chords))
        limbs = [Limb.RIGHT_HAND, Limb.LEFT_HAND]
        found += [
            Hit(bar.time_at(place), drum, 80, bar.number, place, limb=limb)
            for drum, limb in zip(drums, limbs, strict=False)
        ]
    if random.random() < density * 0.5:
        drum = random.choice([I.KICK, I.KICK, I.HIHAT_FOOT])
        limb = Limb.RIGHT_FOOT if drum is I.KICK else Limb.LEFT_FOOT
        found.append(Hit(bar.time_at(place), drum, 90, bar.number, place, limb=limb))
    return [_marked(random, hit, ornaments, doubts, ghosts) for hit in found]


def _marked(random: Random, hit: Hit, ornaments: float, doubts: float, ghosts: float) -> Hit:
    if hit.instrument in FEET:
        return hit
    if random.random() < ornaments:
        return replace(hit, ornament=random.choice(list(Ornament)))
    if random.random() < doubts:
        return replace(hit, status=Status.DOUBTFUL)
    if random.random() < ghosts:
        return replace(hit, ghost=True)
    return replace(hit, accent=random.random() < 0.15)


@cache
def hard_songs() -> dict[str, Transcription]:
    """The songs by name."""
    four, three, two = Meter(4, 4), Meter(3, 4), Meter(2, 4)
    five, six, twelve, seven = Meter(5, 4), Meter(6, 8), Meter(12, 8), Meter(7, 8)
    return {
        "sixteenths everywhere": composed(1, [four], divisions=(4,), density=1.0),
        "thirty-seconds": composed(2, [four], divisions=(4, 8), density=0.9, bars=12),
        "triplets and sixteenths": composed(3, [four], divisions=(3, 4)),
        "sextuplets": composed(4, [four], divisions=(6, 3), density=0.9, bars=16),
        "three four": composed(5, [three], divisions=(2, 4)),
        "two four": composed(6, [two], divisions=(4,), bars=48, sections=6),
        "five four": composed(7, [five]),
        "six eight": composed(8, [six], divisions=(3, 6)),
        "twelve eight": composed(9, [twelve], divisions=(3, 6), density=0.8),
        "seven eight": composed(10, [seven], divisions=(1, 2)),
        "changing metres": composed(11, [four, three, five, two]),
        "flams, drags and buzzes": composed(12, [four], ornaments=0.35),
        "all in doubt": composed(13, [four], doubts=0.6, divisions=(4,)),
        "all ghosts": composed(14, [four], ghosts=0.8, divisions=(4,)),
        "beside the kit": composed(15, [four], beside=True, divisions=(4,)),
        "words over every bar": composed(16, [four], cues=24),
        "many short sections": composed(17, [four], sections=12, bars=24),
        "sparse": composed(18, [four], density=0.12, divisions=(1,)),
        "swung": composed(19, [four], divisions=(2, 4), feel=Feel(1.9, None)),
        "everything at once": composed(
            20, [four, six], beside=True, ornaments=0.2, doubts=0.2, ghosts=0.3, cues=8,
            divisions=(2, 3, 4, 6),
        ),
        "a long song": composed(21, [four], bars=120, sections=10, divisions=(2, 4)),
    }  # fmt: skip
