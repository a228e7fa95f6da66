"""What matching says: one row for each note of target and take, and the player's time base."""

from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ear.matching.pace import Pace
from ear.notes import Hand, Ornament, TempoMap
from ear.units import TICKS_PER_QUARTER


class Outcome(StrEnum):
    """What became of a written or a played note."""

    MATCHED = "matched"
    WRONG_PITCH = "wrong_pitch"
    MISSED = "missed"
    DOUBLE = "double"
    EXTRA = "extra"


class SlipKind(StrEnum):
    """How time was lost or won."""

    LATE_START = "late_start"
    EARLY_START = "early_start"
    SLIP = "slip"
    RECOVERY = "recovery"
    RESTART = "restart"
    PUT_RIGHT = "put_right"
    """A wrong key, and then the right one."""
    LAST_NOTE_LATE = "last_note_late"
    SKIP_BAR = "skip_bar"
    SKIP = "skip"
    REPEAT_LEFT_OUT = "repeat_left_out"
    REPEAT_ADDED = "repeat_added"
    """A passage once more than it is written."""


class Pair(NamedTuple):
    """A row. There is one for every note, so it is a tuple: those are made quickly.

    `target` and `take` number the notes of part and take, None where there is none.

    `near` is the target note beside which a double or a graze stands; `is_graze` marks a
    light, short extra beside another note, `is_abandoned` one of a try that was broken off; `ornament` says of which
    it is a note, about `near`.
    """

    target: int | None
    take: int | None
    outcome: Outcome
    near: int | None = None
    is_graze: bool = False
    is_abandoned: bool = False
    ornament: Ornament | None = None
    is_overlaid: bool = False
    """Of a pass played over the first."""
    is_put_right: bool = False
    """A wrong key that was followed at once by the right one, `near`."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Slip:
    """A jump of the time base: from target note `target` on, all is `quarters` later."""

    target: int
    quarter: float
    """Where in the target, from the start of bar 1."""
    quarters: float
    """As long as they are in the player's own tempo on the way to there."""
    kind: SlipKind
    could_land: tuple[int, ...] = ()
    """The music is alike there, and it may as well have been before each of these notes, the first of their moments;
    `target` is at one of those. Empty where it was nowhere else."""

    is_told: bool = False
    """A listener has said which of them."""
    attempts: int = 1
    """How often the passage was begun before it was gone through, that time included."""

    @property
    def is_guess(self) -> bool:
        """Is its place one of several that explain the take as well, and nobody has said which?"""
        return bool(self.could_land) and not self.is_told


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeBase:
    """The player's own time: a place is expected when his pace reaches it, later by all slips up to there."""

    pace: Pace
    slips: tuple[Slip, ...]

    def expected_s(self, quarters: NDArray[np.float64], tempos: TempoMap) -> NDArray[np.float64]:
        """Return the seconds from bar 1 at which target quarters are expected, element by element."""
        seconds = self.pace.seconds(quarters, tempos)
        for slip in self.slips:
            seconds[quarters >= slip.quarter - 1e-6] += slip.quarters * self.quarter_s(slip.quarter, tempos)
        return seconds

    def quarter_s(self, quarter: float, tempos: TempoMap) -> float:
        """Return how long a quarter lasts in the player's own tempo on the way to a place, in seconds."""
        return 60.0 / tempos.bpm_at(quarter * TICKS_PER_QUARTER) / self.pace.ratio_at(quarter)


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """All rows (targets first, in order; then take notes without one) and the time base."""

    pairs: tuple[Pair, ...]
    time_base: TimeBase
    transposition: int
    """Semitones by which the whole take stands above the target."""
    is_foreign: bool
    """The take is of something else: nothing is linked."""
    octaves: tuple[tuple[Hand, int], ...] = ()
    """Hands that play in an octave of their own, with the semitones by which they stand above their part."""
    likeness: float = 1.0
    """How surely the take is of this part: 1 without doubt, 0 where it is of something else."""

    @property
    def links(self) -> list[Pair]:
        """The rows that link a target note with a take note, in order of target."""
        return [p for p in self.pairs if p.target is not None and p.take is not None]
