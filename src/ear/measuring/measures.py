"""The one object that holds all that is measured in a take."""

from dataclasses import dataclass
from typing import NamedTuple

from ear.measuring.feel import Feel
from ear.measuring.figures import Figure, Floats
from ear.measuring.pedal import PedalMeasure
from ear.measuring.tempo import BarTempo, TempoStretch
from ear.notes import Hand


class NoteMeasure(NamedTuple):
    """What is known of one row of the match; None where the row has no such thing."""

    deviation_ms: float | None = None
    """From the player's own time base: negative early, positive late."""
    on_click_ms: float | None = None
    """From the click itself, slips and own tempo included."""
    velocity_difference: int | None = None
    length_ratio: float | None = None
    """Sounded over written length; None where the pedal held the note."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceProfile:
    """Deviation at one sort of place: a tick of the bar, a lane, a hand, a bar."""

    place: int | str | Hand
    count: int
    median_ms: float
    spread_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Timing:
    """Lead or lag, steadiness and drift, in all and by place."""

    bias_ms: Figure
    spread_ms: Figure
    drift_ms_per_bar: Figure
    tempo_ratio: float
    played_bpm: float
    chord_spread_ms: Figure
    """Median over moments of two notes or more: last onset minus first."""
    steady_ms: Floats
    """Deviation less bias, for each note with a deviation, in order of target."""
    by_tick: tuple[PlaceProfile, ...]
    by_lane: tuple[PlaceProfile, ...]
    by_hand: tuple[PlaceProfile, ...]
    by_bar: tuple[PlaceProfile, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Counts:
    """How many rows of each sort; extras without those of the sorts below them."""

    target: int
    take: int
    matched: int
    wrong_pitch: int
    missed: int
    doubles: int
    extras: int
    grazes: int
    abandoned: int
    ornaments: int = 0
    """Notes of ornaments, written or not."""
    overlaid: int = 0
    """Of a pass played over the first."""
    put_right: int = 0
    """Wrong keys, each followed at once by the right one."""
    in_count_in: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Dynamics:
    """How the strengths were shaped."""

    level: Figure
    """Mean velocity difference, take less target."""
    range_ratio: Figure
    contour: Figure
    """Rank correlation of velocities with the target's."""
    accent_contrast: Figure
    target_accent_contrast: Figure
    evenness: Figure
    """SD of velocity among notes that the target writes alike."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Measures:
    """`notes` has one entry for each row of the match, in the same order."""

    notes: tuple[NoteMeasure, ...]
    counts: Counts
    timing: Timing
    dynamics: Dynamics
    feel: Feel
    length_ratio: Figure
    """Median over notes held by finger."""
    grid_ticks: int
    unplayed_bars_at_end: int
    looks_quantised: bool
    pedal: tuple[PedalMeasure, ...]
    tempo: tuple[TempoStretch, ...]
    bar_tempos: tuple[BarTempo, ...]
    """Where the player did not keep to the click."""
    has_click: bool
    """Without one, nothing is said of lead, lag or the tempo set."""
