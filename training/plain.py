"""Recordings as they are made on a good day: one kit, as it is, a room and a fair mix.

The renderer's other clips are made hard on purpose: kits bent and blended, congas that must not be
taken for toms, echo, worn tape, narrow bands. That teaches, and says little about how well a plain
record is heard. These clips say that: those of the held-out kit, on which nothing is trained or
tuned. Plain clips of the other sources are most of what the networks last learnt from.
"""

from __future__ import annotations

import numpy as np

from orchesis.music.instruments import Instrument as I
from training.bank import Sound
from training.composer import STYLES, Stretch
from training.labels import CLASSES
from training.render import Renderer, chosen_source, put_in_order, toms_apart

PLAIN_STYLES = tuple(style for style in STYLES if style not in ("soup", "hands"))
"""Grooves that people play: neither random grids nor hand percussion in front."""


class PlainRenderer(Renderer):
    """One source's drums unbent, what it lacks from another; at most a little saturation.

    Of several sources toms are put in order, and tuned where two have the same pitch.
    """

    def _kit(self) -> dict[I, Sound]:
        alone = len(self.sources) == 1
        main = self.sources[0] if alone else chosen_source(self.rng, self.sources)
        kit = {}
        for instrument in CLASSES:
            having = [s for s in self.sources if self.bank[s].get(instrument)]
            if not having:
                continue
            source = main if main in having else chosen_source(self.rng, having)
            sounds = self.bank[source][instrument]
            kit[instrument] = sounds[int(self.rng.integers(len(sounds)))]
        if not alone:
            put_in_order(kit)
            if not toms_apart(kit):
                self._tune_toms(kit)
                put_in_order(kit)
        return kit

    def _changed(self, kit: dict[I, Sound]) -> None:
        if not toms_apart(kit):
            self._tune_toms(kit)

    def _percussion(self, stretch: Stretch, length: int, peak: float) -> np.ndarray:
        return np.zeros(length, np.float32)

    def _tape(self, mix: np.ndarray) -> np.ndarray:
        mix = mix / (np.abs(mix).max() + 1e-9)
        return 0.7 * (np.tanh(1.5 * mix) if self.rng.random() < 0.5 else mix)

    def _coded(self, mix: np.ndarray) -> np.ndarray:
        return mix


class NewKitRenderer(PlainRenderer):
    """The same plain recordings of kits that nobody has: each drum bent, some blended with another.

    Few kits were recorded, and each of them as it is becomes familiar: what is learnt of these is
    not heard on the next.
    """

    def _kit(self) -> dict[I, Sound]:
        kit = super()._kit()
        self._changed(kit)
        return kit

    def _changed(self, kit: dict[I, Sound]) -> None:
        Renderer._changed(self, kit)
        put_in_order(kit)
        if not toms_apart(kit):
            self._tune_toms(kit)
            put_in_order(kit)
