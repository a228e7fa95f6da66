"""Drum lanes: which General MIDI percussion numbers a drummer would call one instrument."""

from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from ear.errors import ValueOutOfRange
from ear.text import term
from ear.units import MAX_PITCH


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """One instrument of the kit.

    `staff_step` is its place on a percussion staff, in steps above the bottom line.
    """

    name: str
    pitches: tuple[int, ...]
    staff_step: int
    head: str
    """`round`, `cross`, `diamond` or `ring` (a cross in a circle: an open hat)."""

    @property
    def is_foot(self) -> bool:
        """Is it played by a foot, and written with its stems down?"""
        return self.name in FEET


LANES = (
    Lane(name=term("crash"), pitches=(49, 57, 52, 55), staff_step=10, head="cross"),
    Lane(name=term("open hat"), pitches=(46,), staff_step=9, head="ring"),
    Lane(name=term("hat"), pitches=(42, 44), staff_step=9, head="cross"),
    Lane(name=term("ride"), pitches=(51, 59, 53), staff_step=8, head="cross"),
    Lane(name=term("high tom"), pitches=(50, 48), staff_step=7, head="round"),
    Lane(name=term("mid tom"), pitches=(47, 45), staff_step=6, head="round"),
    Lane(name=term("cowbell"), pitches=(56,), staff_step=6, head="diamond"),
    Lane(name=term("snare"), pitches=(38, 40), staff_step=5, head="round"),
    Lane(name=term("side stick"), pitches=(37,), staff_step=5, head="cross"),
    Lane(name=term("clap"), pitches=(39,), staff_step=5, head="diamond"),
    Lane(name=term("floor tom"), pitches=(43, 41), staff_step=3, head="round"),
    Lane(name=term("kick"), pitches=(36, 35), staff_step=1, head="round"),
)
"""General MIDI level 1 percussion numbers, from the top of the staff down. The first
number of each lane is the one that sounds and is written."""


PERCUSSION = {
    54: "tambourine", 58: "vibraslap", 60: "high bongo", 61: "low bongo", 62: "muted conga", 63: "high conga", 64: "low conga",
    65: "high timbale", 66: "low timbale", 67: "high agogo", 68: "low agogo", 69: "cabasa", 70: "maracas", 71: "short whistle",
    72: "long whistle", 73: "short guiro", 74: "long guiro", 75: "claves", 76: "high wood block", 77: "low wood block",
    78: "muted cuica", 79: "open cuica", 80: "muted triangle", 81: "open triangle",
}  # fmt: skip
"""What General MIDI level 1 calls the other numbers of its percussion map. Each is a lane of its own, for which a kit
of pads has none."""
FEET = ("kick", "foot hat")
FOOT_HAT = Lane(name=term("foot hat"), pitches=(44,), staff_step=-1, head="cross")
"""The hat as the foot closes it: one lane with the hat for who plays and who listens, on paper a line of its own."""
FAMILIES = (
    {"hat", "open hat", "foot hat", "ride", "crash"}, {"high tom", "mid tom", "floor tom"},
    {"snare", "side stick", "clap"},
)  # fmt: skip
"""Lanes that are played for one another, by name: cymbals, toms, and what is struck on the snare's beat."""


def is_one_family(lane: str, other: str) -> bool:
    """Return whether two lanes, by name, are of one family."""
    return any(lane in family and other in family for family in FAMILIES)


class KitMap:
    """Folds percussion numbers into lanes. A number in no lane is a lane of its own."""

    __slots__ = ("_lane_of", "folds", "lanes")

    def __init__(self, lanes: tuple[Lane, ...] = LANES) -> None:
        lane_of: dict[int, Lane] = {}
        for lane in lanes:
            for pitch in lane.pitches:
                if pitch in lane_of:
                    raise ValueOutOfRange("percussion_number_in_two_lanes", pitch=pitch)
                lane_of[pitch] = lane
        self.lanes = lanes
        self._lane_of = MappingProxyType(lane_of)
        self.folds = np.array([self.fold(pitch) for pitch in range(MAX_PITCH + 1)])
        """For each percussion number what `fold` makes of it, to fold many at once."""

    def lane(self, pitch: int) -> Lane:
        """Return the lane of a pitch; an unknown pitch has a lane of its own."""
        known_lane = self._lane_of.get(pitch)
        if known_lane is not None:
            return known_lane
        return Lane(name=f"pad {pitch}", pitches=(pitch,), staff_step=4, head="diamond")

    def written_lane(self, pitch: int) -> Lane:
        """Return the lane in which a pitch is written: its own, except for the foot hi-hat."""
        return FOOT_HAT if pitch in FOOT_HAT.pitches and self.lane(pitch).name == "hat" else self.lane(pitch)

    def fold(self, pitch: int) -> int:
        """Return the number that stands for a pitch's whole lane."""
        return self.lane(pitch).pitches[0]


STANDARD_KIT = KitMap()
