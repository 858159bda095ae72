"""Composed evidence: what a network might have said of the strokes of a song."""

import numpy as np

from orchesis.listening.candidates import Candidates
from orchesis.listening.evidence import Evidence
from orchesis.music.instruments import Instrument

CLASSES = (
    Instrument.KICK,
    Instrument.SNARE,
    Instrument.CLAP,
    Instrument.HIHAT_CLOSED,
    Instrument.HIHAT_OPEN,
    Instrument.RIDE,
    Instrument.CRASH,
)
FRAME_RATE = 100.0


def evidence_of(piece, said):
    """What a network might have said: of each stroke by its instrument, shares of the classes."""
    frames = round(FRAME_RATE * piece.length) + 10
    onsets = np.zeros((frames, len(CLASSES)), np.uint8)
    for hit in piece.hits:
        for instrument, share in said(hit).items():
            at = round(hit.time * FRAME_RATE)
            onsets[at, CLASSES.index(instrument)] = round(255 * share)
    empty = np.zeros(0, np.float32)
    none = Candidates(empty.astype(int), empty.astype(int), empty, empty, empty)
    return Evidence(CLASSES, FRAME_RATE, onsets, none, np.zeros((0, 2), np.float32))
