"""Render the voice that counts: `python -m demo.render_voice` (Debian package espeak-ng).

One short word a sample, by a free speech program. A spoken word is felt to fall where its vowel
sets in, not where its consonant begins (its P-centre: Marcus, "Acoustic determinants of perceptual
center location", Perception & Psychophysics 30, 1981): it is taken as the moment at which the band
of vowels rises most, and told in voice.json, so that the player can begin a word early enough.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from scipy import signal
from scipy.io import wavfile

from demo.render_kit import encode
from orchesis.practice.voice import all_words, sample_name

FOLDER = Path(__file__).resolve().parent.parent / "frontend" / "public" / "voice"
RATE = 44100
VOWELS_HZ = (300.0, 3000.0)
SMOOTHING_SECONDS = 0.015
LONGEST_SECONDS = 0.4
FADE_SECONDS = 0.05
SPELLED = {"&": "and", "e": "ee", "a": "uh", "ah": "ah", "da": "duh", "t": "ta", "la": "la"}
WORDS_A_MINUTE = "260"


def spoken(word: str, wav: Path) -> np.ndarray:
    """One word, mono at 44.1 kHz, without the silence around it, at full level."""
    text = SPELLED.get(word, word)
    command = ["espeak-ng", "-v", "en-us", "-s", WORDS_A_MINUTE, "-p", "42", "-w", str(wav), text]
    subprocess.run(command, check=True)
    rate, samples = wavfile.read(wav)
    mono = signal.resample_poly(samples.astype(float), RATE, rate)
    loud = np.flatnonzero(np.abs(mono) > 0.02 * np.abs(mono).max())
    cut = mono[loud[0] : min(loud[-1] + 1, loud[0] + round(LONGEST_SECONDS * RATE))].copy()
    fade = min(cut.size // 3, round(FADE_SECONDS * RATE))
    cut[-fade:] *= np.linspace(1, 0, fade)
    level: np.ndarray = 0.8 * cut / np.abs(cut).max()
    return level


def centre(samples: np.ndarray) -> float:
    """Where the word is felt to fall, in seconds from its start."""
    band = signal.butter(2, VOWELS_HZ, "bandpass", fs=RATE, output="sos")
    level = np.abs(signal.sosfiltfilt(band, samples))
    length = round(SMOOTHING_SECONDS * RATE)
    smooth = np.convolve(level, np.hanning(length) / np.hanning(length).sum(), "same")
    return float(np.argmax(np.diff(smooth[: round(0.25 * RATE)])) / RATE)


def main() -> int:
    """Render all words of all schools, and the list that says where each falls."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    leads = {}
    with tempfile.TemporaryDirectory() as name:
        wav = Path(name) / "word.wav"
        for word in all_words():
            samples = spoken(word, wav)
            leads[sample_name(word)] = round(centre(samples), 4)
            encode(samples, FOLDER / f"{sample_name(word)}.ogg", wav)
    (FOLDER / "voice.json").write_text(json.dumps(leads, indent=1, sort_keys=True) + "\n")
    print(f"{len(leads)} words in {FOLDER}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
