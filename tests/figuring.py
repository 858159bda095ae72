"""Figures of the catalogue as hits of a song, and what hands a score gives them."""

from fractions import Fraction

from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD
from orchesis.music.instruments import FEET, Instrument, Limb, Ornament
from orchesis.music.values import Bar, Hit, Meter, Transcription

DRUMS = {
    "S": Instrument.SNARE,
    "H": Instrument.TOM_HIGH,
    "M": Instrument.TOM_MID,
    "F": Instrument.TOM_FLOOR,
    "K": Instrument.KICK,
    "h": Instrument.HIHAT_CLOSED,
    "o": Instrument.HIHAT_OPEN,
    "r": Instrument.RIDE,
    "c": Instrument.CRASH,
    "x": Instrument.CROSS_STICK,
    "p": Instrument.CLAP,
}
ORNAMENTS = {"f": Ornament.FLAM, "d": Ornament.DRAG, "z": Ornament.BUZZ}
LETTER = {Limb.RIGHT_HAND: "R", Limb.LEFT_HAND: "L", None: "-"}
ACCENT, PLAIN, GHOST = 115, 85, 30
BEATS = 4


def hits_of(text, parts, bpm, *, first_beat=0):
    """The hits of a text, `parts` places a beat, from a beat of bar 1 on.

    Drums that are struck together stand together: "hS". A mark counts for all of a place.
    """
    hits = []
    for index, token in enumerate(text.split()):
        marks = [sign for sign in token if sign in "><fdz"]
        beat = first_beat + Fraction(index, parts)
        bar, place = divmod(beat, BEATS)
        for sign in token:
            if sign not in DRUMS:
                continue
            hits.append(
                Hit(
                    time=float(beat) * 60 / bpm,
                    instrument=DRUMS[sign],
                    velocity=ACCENT if ">" in marks else GHOST if "<" in marks else PLAIN,
                    bar=1 + int(bar),
                    position=place / BEATS,
                    accent=">" in marks,
                    ghost="<" in marks,
                    ornament=next((ORNAMENTS[m] for m in marks if m in ORNAMENTS), None),
                )
            )
    return hits


def letters_of(hits, *, only=None):
    """R and L in order, of all that hands strike; `only`: of this drum."""
    return "".join(
        LETTER[hit.limb]
        for hit in hits
        if hit.instrument not in FEET and (only is None or hit.instrument is only)
    )


def hands_in_score(text, parts, bpm, player=STANDARD):
    """The hands that a score has for a text."""
    return letters_of(assign_limbs(hits_of(text, parts, bpm), BEATS, player))


def as_song(hits, bpm):
    """A song of bars of four beats that has these hits."""
    last = max(hit.bar for hit in hits)
    beat = 60 / bpm
    bars = [
        Bar(n, 4 * beat * (n - 1), 4 * beat * n, Meter(4, 4),
            tuple(4 * beat * (n - 1) + beat * k for k in range(4)), (4,) * 4)
        for n in range(1, last + 1)
    ]  # fmt: skip
    beats = tuple(time for bar in bars for time in bar.beats)
    return Transcription(
        tempo_bpm=bpm, meter=Meter(4, 4), beats=beats, bars=tuple(bars), hits=tuple(hits),
        duration=bars[-1].end,
    )  # fmt: skip
