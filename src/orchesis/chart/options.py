"""What a chart is asked to show: its reading, its level, the signs and words of one's school."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS, CountWords
from orchesis.music.instruments import Limb


class Reading(StrEnum):
    """How much of a song is written."""

    NOTE_FOR_NOTE = "full"
    ESSENCE = "essence"
    ROAD_MAP = "map"
    PARTS = "parts"


class Notation(StrEnum):
    """The drum staff, or a line a limb."""

    STAFF = "staff"
    LIMBS = "limbs"


class Level(StrEnum):
    """Which notes of it."""

    ALL = "all"
    NO_GHOSTS = "no_ghosts"
    HANDS = "hands"
    BACKBEAT = "backbeat"


class Doubts(StrEnum):
    """How a note that nobody is sure of is written."""

    BRACKETS = "brackets"
    HIDDEN = "hidden"
    PLAIN = "plain"


class Voices(StrEnum):
    """Hands up and feet down, all on one stem, or the left foot on a line of its own."""

    TWO = "two"
    ONE = "one"
    FOOT_APART = "foot_apart"


class Beside(StrEnum):
    """Where the hands' letters stand."""

    NONE = "none"
    BELOW = "below"
    ABOVE = "above"


class Ghosts(StrEnum):
    """How ghost notes look."""

    BRACKETS = "brackets"
    SMALL = "small"


class CrossStick(StrEnum):
    """The head of a cross-stick: a cross, or a cross in a ring."""

    CROSS = "x"
    ROUND = "round"


class HatFoot(StrEnum):
    """Where the hat foot stands: under the staff, or on its lowest line."""

    UNDER = "under"
    LINE = "line"


class Swing(StrEnum):
    """Swing as a direction over straight notes, or spelled out in triplets."""

    DIRECTION = "direction"
    TRIPLETS = "triplets"


class PageSize(StrEnum):
    """Paper, or one long narrow sheet to read on a phone."""

    A4 = "a4"
    LETTER = "letter"
    PHONE = "phone"


class PartChoice(StrEnum):
    """What a reader says of a part: wanted although not proposed, or not wanted."""

    ADDED = "added"
    DROPPED = "dropped"


@dataclass(frozen=True, slots=True)
class ChartOptions:
    """All that one chooses of a chart.

    facts : say over the essence what falls where. for_kit : written for the player's own kit, see
    `limbs.playable.folded`; who asks folds the song. school : a key of SCHOOLS. limbs : only what
    these play, besides the level; none: all.
    first_bar, last_bar : only these bars; 0: all.
    """

    reading: Reading = Reading.NOTE_FOR_NOTE
    notation: Notation = Notation.STAFF
    level: Level = Level.ALL
    limbs: frozenset[Limb] = field(default_factory=frozenset)
    doubts: Doubts = Doubts.BRACKETS
    voices: Voices = Voices.TWO
    sticking: Beside = Beside.NONE
    count: bool = False
    ghosts: Ghosts = Ghosts.BRACKETS
    cross_stick: CrossStick = CrossStick.CROSS
    hat_foot: HatFoot = HatFoot.UNDER
    closing_sign: bool = True
    swing: Swing = Swing.DIRECTION
    facts: bool = False
    for_kit: bool = False
    times: bool = True
    key: bool = True
    school: str = DEFAULT_SCHOOL
    size: PageSize = PageSize.A4
    first_bar: int = 0
    last_bar: int = 0

    @property
    def words(self) -> CountWords:
        """The words of the school."""
        return SCHOOLS.get(self.school, SCHOOLS[DEFAULT_SCHOOL])
