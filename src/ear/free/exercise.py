"""Exercises without a target part: four bars in time, notes of A minor, one note a beat."""

from dataclasses import dataclass

from ear.errors import ValueOutOfRange
from ear.notes import Kind, MeterMap, TempoMap
from ear.units import TICKS_PER_QUARTER

SWING_MOST = 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeExercise:
    """What is asked for, where no notes are written.

    `allowed` has a set of pitch classes (0 is C; for drums, percussion numbers) for each bar and
    begins anew when it ends; empty: anything goes.
    """

    kind: Kind
    meters: MeterMap
    tempos: TempoMap
    bars: int
    grid_ticks: int = TICKS_PER_QUARTER
    swing: float = 1.0
    """First part of a pair of grid steps over its second: 1 straight, 2 a shuffle."""
    allowed: tuple[frozenset[int], ...] = ()
    least_a_bar: float = 0.0
    most_a_bar: float = float("inf")
    pairs_repeat: bool = False
    """Every second bar should repeat the one before it."""
    has_click: bool = True

    def __post_init__(self) -> None:
        if self.bars < 1 or self.grid_ticks < 1:
            raise ValueOutOfRange("exercise_has_bar_more_grid")
        if not 1.0 / SWING_MOST <= self.swing <= SWING_MOST:
            raise ValueOutOfRange("swing_ratio_up_not", swing_most=f"{SWING_MOST:g}", swing=f"{self.swing:g}")
        if not 0 <= self.least_a_bar <= self.most_a_bar:
            raise ValueOutOfRange("least_density_0_more_not")

    @property
    def end_tick(self) -> int:
        """Where the last bar ends."""
        return self.meters.bar(self.bars).end_tick

    def allowed_in(self, bar: int) -> frozenset[int]:
        """The pitch set of a bar, counted from 1; empty: anything goes."""
        return self.allowed[(bar - 1) % len(self.allowed)] if self.allowed else frozenset()

    def is_allowed(self, pitch: int, *, bar: int) -> bool:
        """May a pitch be played in a bar, counted from 1? Octaves don't matter but for drums."""
        wanted = self.allowed_in(bar)
        return not wanted or (pitch if self.kind.instrument.has_lanes else pitch % 12) in wanted
