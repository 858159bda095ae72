"""The sample bank: single strokes from the permitted Debian packages, and drums of our own.

A sound is cut 5 ms before its attack; the attack is where it first reaches 8 % of the peak of its
first 80 ms, and is stored, so that labels are right to the sample. Sources:
FluidR3, TimGM6mb, OPL-3, csound's GM bank (soundfonts), freepats, GMRockKit, TR808EmulationKit,
Audiophob, HardElectro1, rumpf_kit_z01_h2, Millo-Drums_v.1, Millo_MultiLayered2 and 3, VariBreaks,
ElectricEmpireKit, sonic-pi's one-shots; circAfrique v4 and tablas as percussion that
must not be taken for drums. Nothing else is read.
"""

from __future__ import annotations

import pickle
import re
import subprocess
from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree

import mido
import numpy as np
from scipy.signal import butter, lfilter, sosfilt

from orchesis.music.instruments import Instrument as I
from training.fluid import RATE, render_dry

BEFORE = round(0.005 * RATE)
LONGEST = {True: round(2.2 * RATE), False: round(0.9 * RATE)}
SF2 = Path("/usr/share/sounds/sf2")
HYDROGEN = Path("/usr/share/hydrogen/data/drumkits")
SONIC_PI = Path("/usr/share/sonic-pi/samples")
FREEPATS = Path("/usr/share/midi/freepats/Drum_000")
VELOCITIES = (24, 52, 80, 104, 124)

SOUNDFONT_PRESETS = {
    "fluid": (SF2 / "FluidR3_GM.sf2", (0, 8, 16, 24, 25, 32, 40)),
    "timgm": (SF2 / "TimGM6mb.sf2", (0, 8, 16, 25, 40)),
    "opl3": (SF2 / "OPL-3_FM_128M.sf2", (0,)),
    "csound": (SF2 / "sf_GMbank.sf2", (0, 8, 16, 24, 25, 32, 40)),
}
KEYS: dict[I, tuple[int, ...]] = {
    I.KICK: (36, 35),
    I.SNARE: (38, 40),
    I.CROSS_STICK: (37,),
    I.HIHAT_CLOSED: (42,),
    I.HIHAT_OPEN: (46,),
    I.HIHAT_FOOT: (44,),
    I.RIDE: (51, 59),
    I.RIDE_BELL: (53,),
    I.CRASH: (49, 57, 55, 52),
    I.TOM_HIGH: (50, 48),
    I.TOM_MID: (47, 45),
    I.TOM_FLOOR: (43, 41),
    I.CLAP: (39,),
    I.SHAKER: (70, 69),
    I.TAMBOURINE: (54,),
    I.COWBELL: (56,),
}
LONG = {I.HIHAT_OPEN, I.RIDE, I.RIDE_BELL, I.CRASH}


@dataclass(frozen=True)
class Layer:
    """One recording of a stroke: samples, where its attack is, how hard it was hit (0 to 1)."""

    samples: np.ndarray
    attack: int
    velocity: float


Sound = list[Layer]
"""The layers of one drum, soft to hard."""

Bank = dict[str, dict[I, list[Sound]]]
"""Per source and instrument the sounds that it has."""


def cut(samples: np.ndarray, start: int, long: bool, velocity: float) -> Layer | None:
    """Cut a stroke that begins somewhere after `start`; None for silence."""
    piece = samples[start : start + LONGEST[long] + RATE // 5].astype(np.float32)
    level = np.abs(piece)
    if len(level) < 500 or level.max() < 1e-3:
        return None
    begin = int(np.argmax(level >= 0.02 * level.max()))
    peak = level[begin : begin + round(0.08 * RATE)].max()
    attack = begin + int(np.argmax(level[begin:] >= 0.08 * peak))
    first = max(0, attack - BEFORE)
    kept = piece[first : first + LONGEST[long]].copy()
    fade = min(len(kept), round(0.05 * RATE))
    kept[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
    return Layer(kept, attack - first, velocity)


def normalised(sound: Sound) -> Sound:
    """Levels relative to the loudest layer, whose peak becomes 1."""
    top = max(float(np.abs(layer.samples).max()) for layer in sound)
    return [Layer(layer.samples / top, layer.attack, layer.velocity) for layer in sound]


def soundfont(path: Path, presets: tuple[int, ...]) -> dict[I, list[Sound]]:
    """All drum keys of a soundfont's kits at several velocities, rendered dry, one by one."""
    found: dict[I, list[Sound]] = defaultdict(list)
    seen: set[bytes] = set()
    for preset in presets:
        plan = [(i, k, v) for i, keys in KEYS.items() for k in keys for v in VELOCITIES]
        midi = mido.MidiFile(type=0, ticks_per_beat=500)
        track = mido.MidiTrack()
        midi.tracks.append(track)
        track.append(mido.Message("program_change", channel=9, program=preset))
        # One tick is a millisecond: a stroke every 3 s.
        for _, key, velocity in plan:
            track.append(mido.Message("note_on", channel=9, note=key, velocity=velocity, time=200))
            track.append(mido.Message("note_off", channel=9, note=key, time=2800))
        samples = render_dry(midi, path)
        strokes: dict[tuple[I, int], Sound] = defaultdict(list)
        for index, (instrument, key, velocity) in enumerate(plan):
            start = round((0.2 + 3.0 * index - 0.02) * RATE)
            layer = cut(samples, max(0, start), instrument in LONG, velocity / 127)
            if layer is not None:
                strokes[instrument, key].append(layer)
        for (instrument, _), sound in strokes.items():
            mark = sound[-1].samples[:2000].tobytes()
            if mark not in seen:
                seen.add(mark)
                found[instrument].append(normalised(sound))
    return dict(found)


def read_any(path: Path) -> np.ndarray:
    """Any audio file as mono float32, by ffmpeg."""
    command = [
        "ffmpeg",
        "-v",
        "error",
        "-i",
        str(path),
        "-ac",
        "1",
        "-ar",
        str(RATE),
        "-f",
        "f32le",
        "-",
    ]
    raw = subprocess.run(command, check=True, capture_output=True).stdout
    return np.frombuffer(raw, np.float32)


def read_pat(path: Path) -> np.ndarray:
    """The first sample of a GF1 patch file (the format of freepats)."""
    data = path.read_bytes()
    size = int.from_bytes(data[247:251], "little")
    rate = int.from_bytes(data[259:261], "little")
    modes = data[294]
    body = data[335 : 335 + size]
    kind = np.dtype("<i2" if modes & 1 else "i1")
    samples = np.frombuffer(body[: len(body) // kind.itemsize * kind.itemsize], kind).astype(
        np.float32
    )
    if modes & 2:
        half = 32768 if modes & 1 else 128
        samples = np.where(samples < 0, samples + half, samples - half)
    samples /= np.abs(samples).max() + 1e-9
    places = np.arange(0, len(samples) - 1, rate / RATE)
    return np.interp(places, np.arange(len(samples)), samples).astype(np.float32)


PATTERNS: dict[str, list[tuple[str, I]]] = {
    "gmrock": [
        (r"^Kick", I.KICK),
        (r"^Snare-", I.SNARE),
        (r"^SnareRimshot-", I.SNARE),
        (r"^SideStick", I.CROSS_STICK),
        (r"^HatClosed", I.HIHAT_CLOSED),
        (r"^HatOpen", I.HIHAT_OPEN),
        (r"^HatSemiOpen", I.HIHAT_OPEN),
        (r"^HatPedal", I.HIHAT_FOOT),
        (r"^Ride-", I.RIDE),
        (r"^24Ride", I.RIDE),
        (r"^Bell", I.RIDE_BELL),
        (r"^Crash", I.CRASH),
        (r"^Splash", I.CRASH),
        (r"^Tom1", I.TOM_HIGH),
        (r"^Tom2", I.TOM_MID),
        (r"^TomFloor|^FloorTom|^Tom3|^Floor", I.TOM_FLOOR),
        (r"^HandClap", I.CLAP),
        (r"^Cowbell", I.COWBELL),
        (r"^Tamb", I.TAMBOURINE),
        (r"^Shaker", I.SHAKER),
    ],
    "tr808": [
        (r"Kick", I.KICK),
        (r"Snare", I.SNARE),
        (r"Hat_Closed", I.HIHAT_CLOSED),
        (r"Hat_Open", I.HIHAT_OPEN),
        (r"Hat_Pedal", I.HIHAT_FOOT),
        (r"Cymbal", I.CRASH),
        (r"Tom_Hi", I.TOM_HIGH),
        (r"Tom_Mid", I.TOM_MID),
        (r"Tom_Low", I.TOM_FLOOR),
        (r"Clap", I.CLAP),
        (r"Shaker", I.SHAKER),
        (r"Cowbell", I.COWBELL),
        (r"Clave", I.CROSS_STICK),
    ],
    "hardelectro": [
        (r"HardHse_K|_BD_", I.KICK),
        (r"_SN_", I.SNARE),
        (r"CHH|Chh|_HH_", I.HIHAT_CLOSED),
        (r"OHH", I.HIHAT_OPEN),
        (r"Clap", I.CLAP),
    ],
    "audiophob": [
        (r"tomh", I.TOM_HIGH),
        (r"tom-0105|noise-tom", I.TOM_MID),
        (r"hhat-paiste", I.HIHAT_OPEN),
        (r"hat-light", I.HIHAT_CLOSED),
        (r"crash", I.CRASH),
        (r"snare", I.SNARE),
    ],
    "sonicpi": [
        (r"^bd_|drum_bass_(hard|soft)|heavy_kick|elec_(soft|hollow)_kick", I.KICK),
        (r"^sn_|snare_(hard|soft)|elec_(snare|hi_snare|lo_snare|mid_snare|filt_snare)", I.SNARE),
        (r"cymbal_closed", I.HIHAT_CLOSED),
        (r"cymbal_open", I.HIHAT_OPEN),
        (r"cymbal_pedal", I.HIHAT_FOOT),
        (r"cymbal_(hard|soft)", I.CRASH),
        (r"splash|elec_cymbal", I.CRASH),
        (r"elec_(tick|wood)", I.CROSS_STICK),
        (r"perc_snap", I.CLAP),
        (r"tom_hi", I.TOM_HIGH),
        (r"tom_mid", I.TOM_MID),
        (r"tom_lo", I.TOM_FLOOR),
        (r"drum_cowbell", I.COWBELL),
    ],
}
PATTERNS |= {
    "millo1": [
        (r"^bd1", I.KICK),
        (r"^snare", I.SNARE),
        (r"^stick", I.CROSS_STICK),
        (r"^closehihat", I.HIHAT_CLOSED),
        (r"^openhat", I.HIHAT_OPEN),
        (r"^pedalhihat", I.HIHAT_FOOT),
        (r"^ride", I.RIDE),
        (r"^cra", I.CRASH),
        (r"^tom1", I.TOM_HIGH),
        (r"^tom2", I.TOM_FLOOR),
        (r"^clap", I.CLAP),
        (r"Cowbell", I.COWBELL),
    ],
    "millo2": [
        (r"^bd", I.KICK),
        (r"^[jr]snare", I.SNARE),
        (r"^rim", I.CROSS_STICK),
        (r"^hhclosed", I.HIHAT_CLOSED),
        (r"^hhopen", I.HIHAT_OPEN),
        (r"^hhpedal", I.HIHAT_FOOT),
        (r"^ride", I.RIDE),
        (r"^crash", I.CRASH),
        (r"^tom", I.TOM_HIGH),
        (r"^floortom", I.TOM_FLOOR),
        (r"^clap", I.CLAP),
    ],
    "millo3": [
        (r"^bd", I.KICK),
        (r"^sd", I.SNARE),
        (r"^rs", I.CROSS_STICK),
        (r"^hh_0", I.HIHAT_CLOSED),
        (r"^ho", I.HIHAT_OPEN),
        (r"^hh_p", I.HIHAT_FOOT),
        (r"^rc", I.RIDE),
        (r"^cc", I.CRASH),
        (r"^t1", I.TOM_HIGH),
        (r"^t2", I.TOM_MID),
        (r"^ft", I.TOM_FLOOR),
    ],
    "varibreaks": [
        (r"Kick", I.KICK),
        (r"Snare", I.SNARE),
        (r"Hat \d Cl", I.HIHAT_CLOSED),
        (r"Hat \d Op", I.HIHAT_OPEN),
        (r"Hat \d Pd", I.HIHAT_FOOT),
        (r"Tom Hi", I.TOM_HIGH),
        (r"Tom Mid", I.TOM_MID),
        (r"Tom Low", I.TOM_FLOOR),
    ],
    "electricempire": [
        (r"Kick", I.KICK),
        (r"Snare", I.SNARE),
        (r"Hat_(Cl|Low)", I.HIHAT_CLOSED),
        (r"Hat_(Op|Ring)", I.HIHAT_OPEN),
        (r"Clap", I.CLAP),
    ],
}
NUMBERED = ("millo2", "millo3")
"""Kits whose files of one drum are its layers, numbered from soft to hard."""

NAMED: tuple[tuple[str, I], ...] = (
    (r"bass drum", I.KICK),
    (r"snare", I.SNARE),
    (r"stick", I.CROSS_STICK),
    (r"clap", I.CLAP),
    (r"hi-hat closed", I.HIHAT_CLOSED),
    (r"hi-hat pedal", I.HIHAT_FOOT),
    (r"hi-hat open", I.HIHAT_OPEN),
    (r"high tom", I.TOM_HIGH),
    (r"middle tom", I.TOM_MID),
    (r"low tom", I.TOM_FLOOR),
    (r"crash|cymbal", I.CRASH),
    (r"ride bell", I.RIDE_BELL),
    (r"cowbell", I.COWBELL),
)
"""What the instruments of a kit description are called, where file names say nothing."""

OTHER_KEYS = (58, *range(60, 69), *range(71, 82))
"""General MIDI percussion that the network has no class for: congas, guiros, triangles."""

FOLDERS = {
    "gmrock": HYDROGEN / "GMRockKit",
    "tr808": HYDROGEN / "TR808EmulationKit",
    "hardelectro": HYDROGEN / "HardElectro1",
    "audiophob": HYDROGEN / "Audiophob",
    "sonicpi": SONIC_PI,
    "millo1": HYDROGEN / "Millo-Drums_v.1",
    "millo2": HYDROGEN / "Millo_MultiLayered2",
    "millo3": HYDROGEN / "Millo_MultiLayered3",
    "varibreaks": HYDROGEN / "VariBreaks",
    "electricempire": HYDROGEN / "ElectricEmpireKit",
}
ORDER = ("softest", "soft", "med", "", "hard", "hardest", "1", "2", "3", "4", "5")


def folder(source: str) -> dict[I, list[Sound]]:
    """The one-shots of a folder, layers of one drum put together where names tell."""
    groups: dict[tuple[I, str], list[tuple[int, Path]]] = defaultdict(list)
    for path in sorted(FOLDERS[source].iterdir()):
        if path.suffix not in (".wav", ".flac") or path.name.startswith("loop"):
            continue
        for pattern, instrument in PATTERNS[source]:
            if re.search(pattern, path.stem):
                layered = source == "gmrock" and "-" in path.stem
                base, _, layer = path.stem.rpartition("-") if layered else (path.stem, "", "")
                if source in NUMBERED:
                    base, _, number = path.stem.rpartition("_")
                    groups[instrument, base].append(
                        (int(number), path) if number.isdigit() else (0, path)
                    )
                    break
                rank = ORDER.index(layer.lower()) if layer.lower() in ORDER else 3
                groups[instrument, base].append((rank, path))
                break
    found: dict[I, list[Sound]] = defaultdict(list)
    for (instrument, _), members in groups.items():
        members.sort()
        sound = []
        for step, (_, path) in enumerate(members):
            velocity = (step + 1) / len(members) if len(members) > 1 else 0.85
            layer = cut(read_any(path), 0, instrument in LONG, velocity)
            if layer is not None:
                sound.append(layer)
        if sound:
            found[instrument].append(normalised(sound))
    return dict(found)


def described(kit: Path) -> dict[I, list[Sound]]:
    """The sounds of a kit that only its drumkit.xml names."""
    found: dict[I, list[Sound]] = defaultdict(list)
    for node in ElementTree.parse(kit / "drumkit.xml").iter():
        if not node.tag.endswith("instrument"):
            continue
        names = [child.text or "" for child in node if child.tag.endswith("name")]
        files = [child.text or "" for child in node.iter() if child.tag.endswith("filename")]
        for pattern, instrument in NAMED:
            if names and files and re.search(pattern, names[0]):
                layer = cut(read_any(kit / files[0]), 0, instrument in LONG, 0.85)
                if layer is not None:
                    found[instrument].append(normalised([layer]))
                break
    return dict(found)


def build_others(path: Path) -> list[Sound]:
    """Percussion without a class of its own: it sounds along unlabelled. Kept at `path`."""
    if path.exists():
        return pickle.loads(path.read_bytes())
    found: list[Sound] = []
    for font, _ in SOUNDFONT_PRESETS.values():
        midi = mido.MidiFile(type=0, ticks_per_beat=500)
        track = mido.MidiTrack()
        midi.tracks.append(track)
        for key in OTHER_KEYS:
            track.append(mido.Message("note_on", channel=9, note=key, velocity=105, time=200))
            track.append(mido.Message("note_off", channel=9, note=key, time=1800))
        samples = render_dry(midi, font)
        for index in range(len(OTHER_KEYS)):
            layer = cut(samples, round((0.18 + 2.0 * index) * RATE), False, 0.85)
            if layer is not None:
                found.append(normalised([layer]))
    files = sorted((HYDROGEN / "circAfrique v4").glob("*.wav"))
    files += sorted(SONIC_PI.glob("tabla_*.flac")) + sorted(SONIC_PI.glob("glitch_perc*.flac"))
    for file in files:
        layer = cut(read_any(file), 0, False, 0.85)
        if layer is not None:
            found.append(normalised([layer]))
    path.write_bytes(pickle.dumps(found))
    return found


def freepats() -> dict[I, list[Sound]]:
    """The drum patches of freepats, one layer each."""
    found: dict[I, list[Sound]] = defaultdict(list)
    for instrument, keys in KEYS.items():
        for key in keys:
            for path in FREEPATS.glob(f"{key:03}_*.pat"):
                layer = cut(read_pat(path), 0, instrument in LONG, 0.85)
                if layer is not None:
                    found[instrument].append(normalised([layer]))
    return dict(found)


def noise_band(rng: np.random.Generator, length: int, low: float, high: float) -> np.ndarray:
    """Noise between two frequencies."""
    sos = butter(2, [low, min(high, RATE * 0.47)], "bandpass", fs=RATE, output="sos")
    return sosfilt(sos, rng.normal(size=length))


def synthesised(rng: np.random.Generator, instrument: I) -> Sound:
    """A drum of our own making: sweeps, noise, metal, with random body."""
    long = instrument in LONG
    length = LONGEST[long]
    t = np.arange(length) / RATE

    def decay(seconds: float) -> np.ndarray:
        return np.exp(-t / seconds)

    def tone(low: float, start: float, glide: float) -> np.ndarray:
        return np.sin(2 * np.pi * np.cumsum(low + (start - low) * np.exp(-t / glide)) / RATE)

    def metal(base: float) -> np.ndarray:
        partials = base * np.array([1, 1.34, 1.68, 2.05, 2.63, 3.17]) * rng.uniform(0.96, 1.04, 6)
        return sum(np.sign(np.sin(2 * np.pi * f * t)) for f in partials) / 6

    u = rng.uniform
    if instrument is I.KICK:
        body = tone(u(38, 65), u(110, 260), u(0.01, 0.04)) * decay(u(0.06, 0.3))
        wave = body + u(0, 0.25) * noise_band(rng, length, 1500, 6000) * decay(0.006)
    elif instrument is I.SNARE:
        f = u(150, 260)
        body = (tone(f, f * 1.5, 0.01) + 0.6 * tone(f * 1.6, f * 2, 0.01)) * decay(u(0.03, 0.12))
        wave = u(0.4, 1) * body + u(0.25, 0.6) * noise_band(
            rng, length, u(700, 2500), 12000
        ) * decay(u(0.05, 0.16))
    elif instrument is I.CROSS_STICK:
        f = u(380, 1900)
        wave = (tone(f, f, 1) + 0.7 * tone(f * u(1.4, 2.6), f * 2, 0.01)) * decay(u(0.006, 0.03))
        wave += u(0.1, 0.6) * noise_band(rng, length, 1500, 9000) * decay(u(0.003, 0.012))
        wave += u(0.0, 0.35) * tone(f0 := u(150, 280), f0, 1) * decay(u(0.02, 0.08))
        # The hand damps the head, but the wires below it may rattle along.
        rattle = noise_band(rng, length, u(900, 3000), 11000) * decay(u(0.03, 0.12))
        wave += u(0.0, 0.3) * (rng.random() < 0.5) * rattle
    elif instrument in (I.HIHAT_CLOSED, I.HIHAT_OPEN, I.HIHAT_FOOT, I.RIDE, I.RIDE_BELL, I.CRASH):
        ring = {
            I.HIHAT_CLOSED: u(0.015, 0.06),
            I.HIHAT_OPEN: u(0.2, 0.6),
            I.HIHAT_FOOT: u(0.012, 0.035),
        }.get(instrument, u(0.4, 1.1))
        low = {I.RIDE: u(2500, 5000), I.RIDE_BELL: u(1200, 2500), I.CRASH: u(1500, 3500)}.get(
            instrument, u(5000, 8000)
        )
        raw = u(0.2, 0.8) * metal(u(300, 620)) + u(0.3, 0.8) * rng.normal(size=length)
        sos = butter(3, low, "highpass", fs=RATE, output="sos")
        wave = sosfilt(sos, raw) * decay(ring)
        if instrument is I.RIDE_BELL:
            wave += (
                0.5
                * sum(np.sin(2 * np.pi * f * t) for f in u(700, 3000, 3))
                / 3
                * decay(u(0.2, 0.5))
            )
        if instrument is I.RIDE:
            wave += 0.6 * noise_band(rng, length, 3000, 12000) * decay(0.012)
        if instrument is I.HIHAT_FOOT:
            # Two plates that close: darker than a stick's tip, and not as sudden.
            wave += u(0.3, 1.0) * noise_band(rng, length, u(600, 2000), 7000) * decay(ring)
            wave *= 1 - np.exp(-t / u(0.001, 0.004))
        if instrument is I.CRASH:
            wave *= 1 - 0.6 * np.exp(-t / 0.012)
    elif instrument in (I.TOM_HIGH, I.TOM_MID, I.TOM_FLOOR):
        f = {I.TOM_HIGH: u(150, 230), I.TOM_MID: u(105, 155), I.TOM_FLOOR: u(62, 100)}[instrument]
        wave = tone(f, f * u(1.2, 1.9), u(0.02, 0.06)) * decay(u(0.1, 0.35))
        wave += u(0.05, 0.2) * noise_band(rng, length, 800, 6000) * decay(0.012)
    elif instrument is I.CLAP:
        envelope = sum(
            np.where(t >= d, np.exp(-(t - d) / u(0.004, 0.03)), 0) for d in (0, 0.009, 0.019, 0.028)
        )
        wave = noise_band(rng, length, 700, 5000) * envelope
    elif instrument is I.SHAKER:
        wave = (
            noise_band(rng, length, u(3500, 6000), 15000)
            * (1 - np.exp(-t / 0.012))
            * decay(u(0.02, 0.05))
        )
    elif instrument is I.TAMBOURINE:
        wave = sosfilt(
            butter(3, 6000, "highpass", fs=RATE, output="sos"), metal(u(900, 1700))
        ) * decay(u(0.04, 0.15))
    else:
        f = u(480, 720)
        wave = (np.sign(tone(f, f, 1)) + np.sign(tone(f * 1.48, f * 1.5, 1))) * decay(u(0.03, 0.14))
        wave = lfilter([1, -0.95], [1, -0.6], wave)
    layer = cut(
        np.concatenate([np.zeros(600), wave / np.abs(wave).max()]).astype(np.float32), 0, long, 0.85
    )
    assert layer is not None
    return normalised([layer])


def build(path: Path) -> Bank:
    """Make the bank once and keep it at `path`."""
    if path.exists():
        return pickle.loads(path.read_bytes())
    bank: Bank = {
        name: soundfont(file, presets) for name, (file, presets) in SOUNDFONT_PRESETS.items()
    }
    for source in FOLDERS:
        bank[source] = folder(source)
    bank["freepats"] = freepats()
    bank["rumpf"] = described(HYDROGEN / "rumpf_kit_z01_h2")
    rng = np.random.default_rng(7)
    bank["synth"] = {
        instrument: [synthesised(rng, instrument) for _ in range(40)] for instrument in KEYS
    }
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(pickle.dumps(bank))
    return bank
