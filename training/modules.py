"""Tracker modules: songs that people composed of samples of their own; their rows are the truth.

    python -m training.modules .run/training/modules --songs trained
    python -m training.modules .run/training/rows_modules --songs kept --seconds 48

Those of three Debian packages (rafkill-data, circuslinux-data, njam-data), decoded by libopenmpt. A
module knows when each sample is struck, and its instruments can be silenced, so the drums of a
whole mix are had alone as well. What each sample is was found by its sound, its name and where it
is struck (`NAMES`). Modules whose drums cannot be told from their sound, or come as loops, are left
out. Three of the seven are kept for figures.
"""

from __future__ import annotations

import argparse
import ctypes
import sys
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from orchesis.music.instruments import Instrument as I
from training.bank import cut
from training.dataset import save_shard
from training.fluid import RATE
from training.labels import CLASSES
from training.render import Clip, Laid, Sounding, clip_of, onset_bands

GAMES = Path("/usr/share/games")
FILES = {
    "clown": GAMES / "circuslinux/data/music/klovninarki.mod",
    "dali": GAMES / "njam/data/dali.xm",
    "fourth": GAMES / "rafkill/music/song4.xm",
    "opening": GAMES / "rafkill/data/intro.mod",
    "rhythm": GAMES / "njam/data/ritam.s3m",
    "second": GAMES / "rafkill/music/song2.xm",
    "third": GAMES / "rafkill/music/song3.xm",
}
"""Modules with drums, by short names of ours."""

KEPT = ("dali", "opening", "third")
"""Chosen by their places in a list before anything was measured."""

NAMES: dict[str, dict[int | tuple[int, int], I]] = {
    "clown": {3: I.KICK, 4: I.SNARE, 5: I.HIHAT_CLOSED, 8: I.CRASH},
    "dali": {17: I.KICK, 19: I.SNARE, 1: I.HIHAT_CLOSED},
    "fourth": {
        9: I.KICK, 25: I.SNARE, 10: I.CLAP, 11: I.HIHAT_CLOSED, 12: I.HIHAT_OPEN,
        13: I.CRASH, 31: I.CRASH,
    },
    "opening": {1: I.KICK, 2: I.SNARE, 5: I.SNARE, 3: I.HIHAT_CLOSED, 4: I.HIHAT_CLOSED},
    "rhythm": {17: I.KICK, 19: I.SNARE, 18: I.HIHAT_CLOSED},
    "second": {33: I.KICK, 27: I.SNARE, 39: I.SNARE, 34: I.HIHAT_CLOSED, 35: I.HIHAT_OPEN},
    "third": {
        17: I.KICK, (17, 65): I.SNARE, 18: I.SNARE, 19: I.CRASH, 20: I.RIDE,
        21: I.HIHAT_OPEN, 22: I.HIHAT_CLOSED, 23: I.TOM_MID, 24: I.CRASH,
    },
}  # fmt: skip
"""What an instrument of a module is, by its number, or by number and note where keys differ. Which
of the toms of `third` is struck cannot be told; both hats of `opening` fade by 190 dB a second and
more, as closed ones do (docs/notebook.md); percussion without a class sounds along.
"""

FIRST_SHARD = 700000
"""Shards have numbers, as those that are rendered from seeds."""

UNSURE: dict[str, dict[int, I]] = {"second": {37: I.SNARE, 48: I.CLAP}}
"""What may be a drum of this name or none: neither asked for nor forbidden."""

BLOCK = 32
"""Samples between two looks at which row is being played: 0.7 ms."""

NOTE, INSTRUMENT, VOLUME_KIND, EFFECT, VOLUME, PARAMETER = range(6)
GLIDES = {4, 6}
"""Effects with which a note is not struck but slid to."""
CUTS_VOLUME, RETRIG, EXTENDED = 13, 15, (19, 20)


@dataclass(frozen=True)
class Struck:
    """A sample struck: seconds, row of its pattern, channel, instrument, note, volume (0 to 1)."""

    time: float
    row: int
    channel: int
    instrument: int
    note: int
    volume: float


class _Interactive(ctypes.Structure):
    """What libopenmpt lets a player change while it plays; the twelfth silences an instrument."""

    _fields_ = [(f"call{n}", ctypes.c_void_p) for n in range(16)]


SET_TEMPO, SET_PITCH, MUTE_INSTRUMENT = 2, 4, 12
VARIED = ((1.0, 1.0), (0.9, 0.94), (1.12, 1.06))
"""Tempo and pitch, as factors, in which the modules for training are played."""


def library() -> ctypes.CDLL:
    """The library that plays modules, with the types of what is used of it."""
    lib = ctypes.CDLL("libopenmpt.so.0")
    pointer, whole = ctypes.c_void_p, ctypes.c_int32
    signatures: dict[str, tuple[object, list[object]]] = {
        "openmpt_module_ext_create_from_memory": (
            pointer, [ctypes.c_char_p, ctypes.c_size_t, *[pointer] * 7]),
        "openmpt_module_ext_get_module": (pointer, [pointer]),
        "openmpt_module_ext_destroy": (None, [pointer]),
        "openmpt_module_ext_get_interface": (
            whole, [pointer, ctypes.c_char_p, pointer, ctypes.c_size_t]),
        "openmpt_module_get_duration_seconds": (ctypes.c_double, [pointer]),
        "openmpt_module_get_num_channels": (whole, [pointer]),
        "openmpt_module_get_num_instruments": (whole, [pointer]),
        "openmpt_module_get_num_samples": (whole, [pointer]),
        "openmpt_module_get_current_order": (whole, [pointer]),
        "openmpt_module_get_current_pattern": (whole, [pointer]),
        "openmpt_module_get_current_row": (whole, [pointer]),
        "openmpt_module_get_current_speed": (whole, [pointer]),
        "openmpt_module_get_current_tempo": (whole, [pointer]),
        "openmpt_module_get_pattern_row_channel_command": (
            ctypes.c_uint8, [pointer, whole, whole, whole, whole]),
        "openmpt_module_read_float_mono": (
            ctypes.c_size_t, [pointer, whole, ctypes.c_size_t, pointer]),
    }  # fmt: skip
    for name, (result, arguments) in signatures.items():
        call = getattr(lib, name)
        call.restype, call.argtypes = result, arguments
    return lib


class Module:
    """One module, read from a file."""

    def __init__(self, path: Path, tempo: float = 1.0, pitch: float = 1.0) -> None:
        self.lib, self.data = library(), path.read_bytes()
        self.tempo, self.pitch = tempo, pitch
        with self._open() as (_, module):
            self.channels = self.lib.openmpt_module_get_num_channels(module)
            # Samples are silenced by their own numbers where a module has no instruments.
            self.instruments = self.lib.openmpt_module_get_num_instruments(
                module
            ) or self.lib.openmpt_module_get_num_samples(module)
            seconds = float(self.lib.openmpt_module_get_duration_seconds(module))
            self.seconds = seconds / tempo

    def _open(self) -> _Opened:
        return _Opened(self.lib, self.data, self.tempo, self.pitch)

    def rendered(self, silent: frozenset[int] = frozenset()) -> np.ndarray:
        """The whole song, float32 of shape (samples,), without the instruments of these numbers."""
        with self._open() as (ext, module):
            _mute(self.lib, ext, silent)
            return _read(self.lib, module, round(self.seconds * RATE))

    def strikes(self) -> list[Struck]:
        """Every note as it is struck, in order, with delays and repeats inside a row."""
        lib, found = self.lib, []
        last: dict[int, int] = defaultdict(int)
        buffer = np.zeros(BLOCK, np.float32)
        address = buffer.ctypes.data_as(ctypes.c_void_p)
        with self._open() as (_, module):
            before, read = (-1, -1, -1), 0
            while read < self.seconds * RATE:
                count = lib.openmpt_module_read_float_mono(module, RATE, BLOCK, address)
                if not count:
                    break
                at = (
                    lib.openmpt_module_get_current_order(module),
                    lib.openmpt_module_get_current_pattern(module),
                    lib.openmpt_module_get_current_row(module),
                )
                if at != before:
                    before = at
                    tick = 2.5 / max(32, lib.openmpt_module_get_current_tempo(module)) / self.tempo
                    speed = lib.openmpt_module_get_current_speed(module)
                    found += self._row(module, at[1], at[2], read / RATE, tick, speed, last)
                read += count
        return sorted(found, key=lambda struck: struck.time)

    def _row(
        self, module: int, pattern: int, row: int, time: float, tick: float, speed: int,
        last: dict[int, int],
    ) -> list[Struck]:  # fmt: skip
        cell = self.lib.openmpt_module_get_pattern_row_channel_command
        found = []
        for channel in range(self.channels):
            note, instrument, kind, effect, volume, parameter = (
                cell(module, pattern, row, channel, which) for which in range(6)
            )
            if instrument:
                last[channel] = instrument
            if not 0 < note <= 120 or effect in GLIDES:
                continue
            loud = 1.0
            if kind == 1:
                loud = volume / 64
            if effect == CUTS_VOLUME:
                loud = parameter / 64
            if not loud:
                continue
            starts = [0]
            if effect in EXTENDED and parameter >> 4 == 0xD:
                starts = [parameter & 15]
            elif effect in EXTENDED and effect == EXTENDED[0] and parameter >> 4 == 9:
                starts = list(range(0, speed, max(1, parameter & 15)))
            elif effect == RETRIG and parameter & 15:
                starts = list(range(0, speed, parameter & 15))
            found += [
                Struck(time + tick * start, row, channel, last[channel], note, loud)
                for start in starts
                if start < speed
            ]
        return found


class _Opened:
    """A module as libopenmpt holds it, given back at the end."""

    def __init__(self, lib: ctypes.CDLL, data: bytes, tempo: float, pitch: float) -> None:
        self.lib, self.data, self.tempo, self.pitch = lib, data, tempo, pitch

    def __enter__(self) -> tuple[int, int]:
        self.ext = self.lib.openmpt_module_ext_create_from_memory(
            self.data, len(self.data), *[None] * 7
        )
        if not self.ext:
            raise ValueError("This is no module that libopenmpt can read.")
        kind = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.c_void_p, ctypes.c_double)
        for number, factor in ((SET_TEMPO, self.tempo), (SET_PITCH, self.pitch)):
            if factor != 1:
                _call(self.lib, self.ext, number, kind)(self.ext, factor)
        return self.ext, self.lib.openmpt_module_ext_get_module(self.ext)

    def __exit__(self, *_: object) -> None:
        self.lib.openmpt_module_ext_destroy(self.ext)


def _call(lib: ctypes.CDLL, ext: int, number: int, kind: type) -> Callable[..., int]:
    """One of the calls by which a module is changed while it plays."""
    calls = _Interactive()
    got = lib.openmpt_module_ext_get_interface(
        ext, b"interactive", ctypes.byref(calls), ctypes.sizeof(calls)
    )
    if not got:
        raise RuntimeError("This libopenmpt cannot change a module while it plays.")
    return kind(getattr(calls, f"call{number}"))


def _mute(lib: ctypes.CDLL, ext: int, silent: frozenset[int]) -> None:
    kind = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.c_void_p, ctypes.c_int32, ctypes.c_int)
    mute = _call(lib, ext, MUTE_INSTRUMENT, kind)
    for number in silent:
        mute(ext, number - 1, 1)


def _read(lib: ctypes.CDLL, module: int, length: int) -> np.ndarray:
    samples = np.zeros(length, np.float32)
    address = samples.ctypes.data_as(ctypes.POINTER(ctypes.c_float))
    read = 0
    while read < length:
        here = ctypes.cast(ctypes.byref(address.contents, 4 * read), ctypes.c_void_p)
        count = lib.openmpt_module_read_float_mono(module, RATE, min(RATE, length - read), here)
        if not count:
            break
        read += count
    return samples


def drum_of(name: str, struck: Struck) -> I | None:
    """Which drum of a module was struck, if any."""
    names = NAMES[name]
    return names.get((struck.instrument, struck.note), names.get(struck.instrument))


def sounding(name: str, module: Module) -> Sounding:
    """A whole module: mix, drums and rest apart, and every stroke when it is heard."""
    numbers = frozenset(range(1, module.instruments + 1))
    drums = frozenset(key if isinstance(key, int) else key[0] for key in NAMES[name])
    every = module.strikes()
    strikes = [struck for struck in every if drum_of(name, struck)]
    laid = []
    for number in sorted(drums):
        alone = module.rendered(numbers - {number})
        mine = [struck for struck in strikes if struck.instrument == number]
        for note in sorted({struck.note for struck in mine}):
            same = [struck for struck in mine if struck.note == note]
            late, bands = attack(alone, same, [struck.time for struck in mine])
            if bands is None:
                continue
            for struck in same:
                drum = drum_of(name, struck)
                assert drum is not None
                loud = struck.volume
                laid.append(Laid(struck.time + late, drum, loud, bands * loud))
    unsure = UNSURE.get(name, {})
    laid += [
        Laid(struck.time, unsure[struck.instrument], 0.0, np.zeros_like(laid[0].bands))
        for struck in every
        if struck.instrument in unsure
    ]
    mix, of_drums = module.rendered(), module.rendered(numbers - drums)
    laid.sort(key=lambda stroke: stroke.time)
    return Sounding(mix, of_drums, mix - of_drums, laid, dict.fromkeys(CLASSES, 1.0))


def attack(
    alone: np.ndarray, same: list[Struck], times: list[float]
) -> tuple[float, np.ndarray | None]:
    """Seconds from a row to the attack of the sample that it strikes, and its bands at full volume.

    Taken from the stroke after which there is most room, in what only this instrument plays.
    """
    room = [
        min([t for t in times if t > struck.time + 1e-3], default=struck.time + 2) - struck.time
        for struck in same
    ]
    best = int(np.argmax(room))
    first = round(same[best].time * RATE)
    layer = cut(alone[first : first + round(min(room[best], 2.0) * RATE)], 0, True, 1.0)
    if layer is None:
        return 0.0, None
    piece = np.abs(alone[first : first + round(0.1 * RATE)])
    late = float(np.argmax(piece >= 0.08 * piece.max())) / RATE
    bands = onset_bands(layer.samples[layer.attack :]) / same[best].volume
    return late, bands


def clips(name: str, seconds: float, tempo: float = 1.0, pitch: float = 1.0) -> list[Clip]:
    """A module in clips of so many seconds; what is left over at its end is left out."""
    whole = sounding(name, Module(FILES[name], tempo, pitch))
    length = round(seconds * RATE)
    found = []
    for first in range(0, len(whole.mix) - length + 1, length):
        part = slice(first, first + length)
        begin = first / RATE
        laid = [
            Laid(s.time - begin, s.instrument, s.loudness, s.bands)
            for s in whole.laid
            if begin <= s.time < begin + seconds
        ]
        peak = float(np.abs(whole.mix[part]).max()) + 1e-9
        mix, drums, rest = (x[part] / peak for x in (whole.mix, whole.drums, whole.rest))
        laid = [Laid(s.time, s.instrument, s.loudness, s.bands / peak) for s in laid]
        found.append(clip_of(Sounding(mix, drums, rest, laid, whole.levels), [], []))
    return found


def main() -> int:
    """Write clips of modules as shards."""
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--songs", choices=("trained", "kept"), default="trained")
    parser.add_argument("--seconds", type=float, default=20.0)
    options = parser.parse_args()
    options.folder.mkdir(parents=True, exist_ok=True)
    kept = options.songs == "kept"
    for place, name in enumerate(FILES):
        if (name in KEPT) != kept:
            continue
        for number, (tempo, pitch) in enumerate(VARIED[:1] if kept else VARIED):
            found = clips(name, options.seconds, tempo, pitch)
            save_shard(options.folder / f"{FIRST_SHARD + 10 * place + number:06}.npz", found)
            print(f"{name}: {len(found)} clips", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
