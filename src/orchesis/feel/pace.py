"""Pace: the tempo of each section, and how one section is led into the next."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.listening.levels import Ring
from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Bar, Section

BESIDE_BARS = 2
"""Bars before and after a change that are compared with their sections."""

FEWEST_BARS = 4
CLEAR_BPM_SHARE = 0.008
"""Of the tempo: 1 bpm at 125. Less is not felt as a push."""

DRY_SECONDS, ROOMY_SECONDS = 0.12, 0.3
"""A snare falls by 20 dB in less: damped; in more: it rings, or the room does."""


@dataclass(frozen=True, slots=True)
class Paced:
    """A section's tempo in beats a minute, and half of the spread of its bars."""

    label: str
    bpm: float
    spread: float


@dataclass(frozen=True, slots=True)
class Push:
    """A change of section that is hurried into, or held back, in beats a minute."""

    into: str
    bpm: float


def paces(bars: Sequence[Bar], sections: Sequence[Section]) -> tuple[Paced, ...]:
    """The tempo of every section that has bars enough."""
    found = []
    for section in sections:
        tempi = _tempi(bars, section.first_bar, section.first_bar + section.bars)
        if len(tempi) >= FEWEST_BARS:
            spread = float(np.median(np.abs(tempi - np.median(tempi))))
            found.append(Paced(section.label, float(np.median(tempi)), spread))
    return tuple(found)


def pushes(bars: Sequence[Bar], sections: Sequence[Section]) -> tuple[Push, ...]:
    """Changes before which the last bars go faster or slower than their section, clearly."""
    found = []
    for before, after in itertools.pairwise(sections):
        if before.bars < FEWEST_BARS + BESIDE_BARS:
            continue
        end = before.first_bar + before.bars
        usual = _tempi(bars, before.first_bar, end - BESIDE_BARS)
        last = _tempi(bars, end - BESIDE_BARS, end)
        if not len(usual) or not len(last):
            continue
        change = float(np.mean(last) - np.median(usual))
        doubt = 2 * float(np.std(usual)) / np.sqrt(BESIDE_BARS)
        if abs(change) > max(doubt, CLEAR_BPM_SHARE * float(np.median(usual))):
            found.append(Push(after.label, change))
    return tuple(found)


def _tempi(bars: Sequence[Bar], first: int, end: int) -> np.ndarray:
    return np.array(
        [60.0 * len(bar.beats) / (bar.end - bar.start) for bar in bars if first <= bar.number < end]
    )


def pace_words(found: Sequence[Paced], led: Sequence[Push]) -> str:
    """How steady the song is, and where it is led on."""
    if not found:
        return "The sections are too short to say how their tempi differ."
    slowest = min(found, key=lambda paced: paced.bpm)
    fastest = max(found, key=lambda paced: paced.bpm)
    apart = fastest.bpm - slowest.bpm
    if apart <= CLEAR_BPM_SHARE * slowest.bpm:
        told = "All sections have one tempo: a click plays along."
    else:
        told = (
            f"{fastest.label} is the fastest at {fastest.bpm:.1f}, {slowest.label} the slowest at "
            f"{slowest.bpm:.1f}: let a click follow the record, not the other way round."
        )
    if led:
        parts = [
            f"{'hurries' if push.bpm > 0 else 'holds back'} into {push.into} by "
            f"{abs(push.bpm):.1f} bpm"
            for push in led[:3]
        ]
        told += f" It {', '.join(parts)}."
    return told


def ring_words(ring: Ring) -> str:
    """How dry a drum is, and what one does about it."""
    name = SPOKEN_NAMES[ring.instrument]
    told = f"The {name} falls by 20 dB in {ring.seconds:.2f} s ({ring.low:.2f} to {ring.high:.2f})"
    if ring.seconds < DRY_SECONDS:
        damped = (
            "a ring or a wallet on the head"
            if ring.instrument is Instrument.SNARE
            else "a pillow against both heads, and a felt beater"
        )
        return f"{told}: dry. {damped[0].upper()}{damped[1:]}."
    if ring.seconds > ROOMY_SECONDS:
        return (
            f"{told}: it rings, or the room does. No damping, and do not choke it in a small room."
        )
    how = (
        "a little gel near the rim"
        if ring.instrument is Instrument.SNARE
        else "a light touch of damping"
    )
    return f"{told}: neither dead nor roomy. {how[0].upper()}{how[1:]} is enough."
