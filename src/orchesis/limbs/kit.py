"""Kits and players: what stands where, who plays it, and how fast a hand or a foot goes.

Places are seen from above in centimetres, x from the player's left to the right, y away from him,
the snare at the origin: a usual five-piece kit. A left-handed player sits at its mirror image.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import TOMS, Instrument, Limb

Point = tuple[float, float]

PLACES: dict[Instrument, Point] = {
    Instrument.SNARE: (0, 0),
    Instrument.CROSS_STICK: (0, 0),
    Instrument.HIHAT_CLOSED: (-35, 15),
    Instrument.HIHAT_OPEN: (-35, 15),
    Instrument.TOM_HIGH: (-12, 38),
    Instrument.TOM_MID: (18, 40),
    Instrument.TOM_LOW: (42, 22),
    Instrument.TOM_FLOOR: (50, 2),
    Instrument.RIDE: (58, 42),
    Instrument.RIDE_BELL: (58, 48),
    Instrument.CRASH: (-30, 58),
    Instrument.SPLASH: (4, 62),
    Instrument.CHINA: (80, 40),
    Instrument.COWBELL: (6, 50),
    Instrument.CLAP: (-55, 45),
    Instrument.SHAKER: (-35, 40),
    Instrument.TAMBOURINE: (-40, 40),
}

COMFORTABLE_HZ = 6.9
"""Strokes a second that one hand keeps up for a song: sixteenths at 103. From here on two hands
share them; schools differ, so it can be changed."""

DOUBLE_HZ = 14.0
"""The second stroke of a double bounces: sixteenths of a double-stroke roll at 105 in 32nds."""

HARDEST = 1.6
"""Times the comfortable rate: beyond it nobody is asked to go with one hand."""

PEDAL_HZ = 6.5
"""Strokes a second of one foot: eighths at 195, sixteenths at 97."""

REACH_CM_A_SECOND = 600.0
"""How fast a hand gets from one drum to another and is ready to strike: from the ride to the hat
within an eighth at 180."""

SIXTEENTHS = ("by tempo", "one hand", "two hands")
"""How a player takes steady sixteenths."""

MOST_TOMS = 4


@dataclass(frozen=True)
class Player:
    """Who plays, and on what.

    left_handed : sits at the mirror image, feet too, and leads with the left. open_handed : the
    hat is played by the hand on its side. toms : from the highest down, floor tom last.
    double_pedal : the other foot may take a kick. pads : claps, shakers and tambourines that the
    kit can play. brushes : instead of sticks: no stroke bounces, a pressed one is swept.
    """

    name: str = "Standard kit"
    left_handed: bool = False
    open_handed: bool = False
    toms: tuple[Instrument, ...] = (Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_FLOOR)
    double_pedal: bool = False
    pads: tuple[Instrument, ...] = ()
    brushes: bool = False
    sixteenths: str = SIXTEENTHS[0]
    comfortable_hz: float = COMFORTABLE_HZ
    pedal_hz: float = PEDAL_HZ

    def __post_init__(self) -> None:
        if not 1 <= len(self.toms) <= MOST_TOMS or not set(self.toms) <= TOMS:
            raise InvalidTranscription(f"a kit has one to {MOST_TOMS} toms")
        if self.sixteenths not in SIXTEENTHS:
            raise InvalidTranscription(f"sixteenths are played {' or '.join(SIXTEENTHS)}")
        if not 3 <= self.comfortable_hz <= 15 or not 2 <= self.pedal_hz <= 15:
            raise InvalidTranscription("a hand makes 3 to 15 strokes a second, a foot 2 to 15")

    @property
    def lead(self) -> Limb:
        """The hand that leads."""
        return Limb.LEFT_HAND if self.left_handed else Limb.RIGHT_HAND

    @property
    def hat_hand(self) -> Limb:
        """The hand that keeps time on the hat."""
        return other_hand(self.lead) if self.open_handed else self.lead

    @property
    def kick_foot(self) -> Limb:
        """The foot on the kick's pedal: the right one, or its mirror image."""
        return Limb.LEFT_FOOT if self.left_handed else Limb.RIGHT_FOOT

    @property
    def hat_foot(self) -> Limb:
        """The foot on the hat's pedal."""
        return Limb.RIGHT_FOOT if self.left_handed else Limb.LEFT_FOOT

    @cached_property
    def places(self) -> dict[Instrument, Point]:
        """Where everything stands for this player."""
        side = -1 if self.left_handed else 1
        return {instrument: (side * x, y) for instrument, (x, y) in PLACES.items()}

    @property
    def hand_limit(self) -> float:
        """Seconds: no two strokes of one hand are asked for nearer together, but for doubles."""
        return 1.0 / (HARDEST * self.comfortable_hz)

    @property
    def double_limit(self) -> float:
        """Seconds between the two strokes of a double, at least. A brush does not bounce."""
        return self.hand_limit if self.brushes else 1.0 / (HARDEST * DOUBLE_HZ)


STANDARD = Player()


def other_hand(hand: Limb) -> Limb:
    """The other hand."""
    return Limb.LEFT_HAND if hand is Limb.RIGHT_HAND else Limb.RIGHT_HAND


def mirrored(player: Player) -> Player:
    """The same player the other way round."""
    return replace(player, left_handed=not player.left_handed)
