"""The classical ear: kick, snare and hat or cymbal from rises of energy in three regions.

Spectral flux with a maximum filter over frequency (Boeck and Widmer, "Maximum filter vibrato
suppression for onset detection", DAFx 2013), taken separately where each drum lives: the kick
below 100 Hz with its beater, the snare where its body and all the bands of its wires rise
together, cymbals above 7 kHz. Loudness
is measured against the song's own loud strokes. It needs no training and makes the mistakes that
one expects: bass notes that sound like kicks, hats hidden under snares.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d

from orchesis.audio.decode import Samples
from orchesis.listening.ear import Curve, Heard, Onset, Progress
from orchesis.listening.features import HOP, Bands, band_centres, band_spectrogram
from orchesis.listening.harmony import harmonic_change, scaled_to_strong
from orchesis.listening.peaks import pick_peaks, refine
from orchesis.music.instruments import Instrument

LAG = 2
"""Frames between the two spectra that are compared: about the rise of a drum in this window."""

COMPRESSION = 300.0
"""Magnitudes are log10(1 + 300 m) of the song's own full scale: 50 dB below it counts as 1 dB."""

ATTACK_SHIFT = -0.5
"""Frames from the peak of the flux back to the attack (median error on the same grooves)."""

SILENCE = 1e-4
"""Full scale below this is taken as silence: amplitude of -80 dB."""


@dataclass(frozen=True, slots=True)
class _Voice:
    """How one drum is picked: dead time in frames, threshold as a share of its loud strokes."""

    instrument: Instrument
    dead_time: int
    share: float


KICK = _Voice(Instrument.KICK, 6, 0.35)
SNARE = _Voice(Instrument.SNARE, 5, 0.40)
HAT = _Voice(Instrument.HIHAT_CLOSED, 5, 0.25)
"""Shares chosen on six random grooves rendered from another soundfont than the demo songs'."""

BEATER_FLOOR = 0.02
"""A kick without audible beater still counts a little; a bass note with no attack does not."""

NOISE_PERCENTILE = 30
"""Noise lifts all bands, a chord only some: the lower third of the bands tells them apart."""

RING_FRAMES = (9, 14)
"""A cymbal still sounds 90 to 140 ms after its attack; a closed hat does not."""

RING_SHARE = 0.62
CRASH_LOUDNESS = 0.85


def _rises(bands: Bands) -> tuple[Bands, Bands]:
    """Compressed spectrogram and its rectified rise, both (frames, bands)."""
    full_scale = max(float(np.percentile(bands.max(axis=1), 99)), SILENCE)
    level = np.log10(1.0 + COMPRESSION * bands / full_scale).astype(np.float32)
    before = maximum_filter1d(level, 3, axis=1)
    rise = np.zeros_like(level)
    rise[LAG:] = np.maximum(0.0, level[LAG:] - before[:-LAG])
    return level, rise


class FluxEar:
    """Listens by spectral flux; see the module's text."""

    def hear(self, samples: Samples, sample_rate: int, progress: Progress) -> Heard:
        """Listen to mono samples, shape (n,). See `Ear`."""
        frame_rate = sample_rate / HOP
        bands = band_spectrogram(samples, sample_rate, lambda share: progress(0.8 * share))
        centres = band_centres(sample_rate)
        level, rise = _rises(bands)

        def region(low: float, high: float) -> Curve:
            mean: Curve = rise[:, (centres >= low) & (centres < high)].mean(axis=1)
            return mean

        low, body, beater = region(30, 105), region(150, 450), region(1000, 5000)
        wires = rise[:, (centres >= 500) & (centres < 7000)]
        kick = scaled_to_strong(np.sqrt(low * (beater + BEATER_FLOOR)))
        snare = scaled_to_strong(np.sqrt(body * np.percentile(wires, NOISE_PERCENTILE, axis=1)))
        hat = scaled_to_strong(region(7000, 17000))
        silent = float(bands.max()) < SILENCE
        onsets: list[Onset] = []
        if not silent:
            onsets += self._strokes(kick, KICK, frame_rate)
            onsets += self._strokes(snare, SNARE, frame_rate)
            ringing = level[:, centres >= 6000].mean(axis=1)
            onsets += [
                self._cymbal(onset, ringing, frame_rate)
                for onset in self._strokes(hat, HAT, frame_rate)
            ]
        progress(1.0)
        pulse = scaled_to_strong(
            kick + 1.2 * snare + 0.4 * hat + 0.5 * scaled_to_strong(rise.mean(axis=1))
        )
        return Heard(
            onsets=tuple(sorted(onsets, key=lambda onset: onset.time)),
            frame_rate=frame_rate,
            pulse=pulse if not silent else np.zeros_like(pulse),
            low=np.minimum(kick, 1.0),
            brightness=np.minimum(hat, 1.0),
            change=harmonic_change(level, centres, frame_rate),
            downbeat=np.zeros_like(pulse),
        )

    def _strokes(self, curve: Curve, voice: _Voice, frame_rate: float) -> list[Onset]:
        peaks = pick_peaks(
            curve,
            half_width=voice.dead_time // 2,
            above_mean=0.08,
            mean_width=int(0.4 * frame_rate),
            floor=voice.share,
        )
        places = refine(curve, peaks)
        return [
            Onset(
                time=max(0.0, float(place + ATTACK_SHIFT) / frame_rate),
                instrument=voice.instrument,
                loudness=float(min(1.0, curve[peak])),
                confidence=float(np.clip(0.35 + 0.9 * (curve[peak] - voice.share), 0.3, 0.95)),
            )
            for peak, place in zip(peaks, places, strict=True)
        ]

    def _cymbal(self, onset: Onset, ringing: Curve, frame_rate: float) -> Onset:
        """Tell a crash, which is loud and rings, from the steady hat or ride."""
        frame = round(onset.time * frame_rate)
        peak = float(ringing[frame : frame + 5].max(initial=0.0))
        later = float(ringing[frame + RING_FRAMES[0] : frame + RING_FRAMES[1]].min(initial=peak))
        rings = peak > 0 and later / peak > RING_SHARE
        if rings and onset.loudness >= CRASH_LOUDNESS:
            return Onset(onset.time, Instrument.CRASH, onset.loudness, 0.8 * onset.confidence)
        return onset
