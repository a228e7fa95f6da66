"""What happened in a take: no rubric, no level, no sentence. Stored once for a take and version.

Rows are those of the match: first one for each target note, in order, then one for each take note that
belongs to none. All columns of `RowFacts` have an entry for each row, unless they say otherwise; None where a
row has no such thing.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from ear.findings.finding import Finding
from ear.free.realised import FreeFacts
from ear.matching.outcome import Outcome, SlipKind
from ear.measuring.measures import Counts
from ear.measuring.pedal import PedalOutcome
from ear.note_place import NotePlace
from ear.notes import Kind, Ornament, PedalMove

SCHEMA = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class TargetFacts:
    """What was to be played. `bpm` in quarter notes a minute."""

    kind: Kind
    notes: int
    bars: int
    bpm: float
    meter: str
    """As it is written, 6/8, where the part begins."""
    grid_ticks: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeFacts:
    """What is known of a take as a whole."""

    notes: int
    latency_ms: float
    has_touch: bool
    has_click: bool
    looks_quantised: bool
    is_foreign: bool
    """Of something else: nothing is linked."""
    likeness: float
    """How surely the take is of this part: 1 without doubt, 0 where it is of something else."""
    has_pedal: bool = True
    """False where the input has no pedal of its own: typing keys, a mouse."""
    in_time: float = 1.0
    """How surely the notes are in time at all, where no click and no written note says it: 0 as notes at random are,
    1 without doubt."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrnamentRow:
    """A note of an ornament; `is_written` where the note that it stands about has a mark that allows it."""

    row: int
    ornament: Ornament
    is_written: bool


@dataclass(frozen=True, kw_only=True)
class RowFacts:
    """Deviations in ms, negative early; 0.01 ms is the last digit kept."""

    target: tuple[int | None, ...]
    take: tuple[int | None, ...]
    outcome: tuple[Outcome, ...]
    deviation_ms: tuple[float | None, ...]
    """From the player's own time base."""
    on_click_ms: tuple[float | None, ...]
    """From the click itself, slips and own tempo included."""
    click_ms: tuple[float | None, ...]
    """From the click, joined again on a beat after each slip."""
    pulse_ms: tuple[float | None, ...]
    """From the player's own pulse, which may bend."""
    velocity_difference: tuple[int | None, ...]
    length_ratio: tuple[float | None, ...]
    """Sounded over written; None where the pedal held the note, too."""
    near: tuple[int | None, ...]
    """Of a double or a brushed key: the target note beside which it stands."""
    grazes: tuple[int, ...]
    """Rows of brushed keys."""
    abandoned: tuple[int, ...]
    """Rows of false starts: notes of a try that was broken off."""
    ornaments: tuple[OrnamentRow, ...] = ()
    """Rows of notes of ornaments."""
    overlaid: tuple[int, ...] = ()
    """Rows of a pass that was played over the first."""
    put_right: tuple[int, ...] = ()
    """Rows of wrong keys that were followed at once by the right ones."""
    in_count_in: tuple[int, ...] = ()
    """Rows of notes before the beginning."""
    bar: tuple[int, ...] = ()
    """Of each target note, the number of its bar; empty where it is not known."""
    written: tuple[int, ...] = ()
    """Of each target note, its velocity; empty where it is not known."""
    voice: tuple[int, ...] = ()
    """Of each target note, its hand's or lane's number; empty where it is not known."""
    accents: tuple[int, ...] = ()
    """Target notes that are written as accents."""
    own: Mapping[str, tuple[float | None, ...]] = field(default_factory=dict)
    """Columns that one criterion alone asks for, with an entry for each target note; those without any figure are not
    there."""

    def __post_init__(self) -> None:
        columns = (
            self.take, self.outcome, self.deviation_ms, self.on_click_ms, self.click_ms, self.pulse_ms,
            self.velocity_difference, self.length_ratio, self.near,
        )  # fmt: skip
        if any(len(column) != len(self.target) for column in columns):
            raise ValueError("columns of rows have one length")

    def __len__(self) -> int:
        return len(self.target)

    def place(self, row: int) -> NotePlace:
        """Return the note that a row is about."""
        return NotePlace.of_row(self.target[row], self.take[row])

    @cached_property
    def number(self) -> dict[tuple[int | None, int | None], int]:
        """Of each row by its target and take note."""
        return {pair: n for n, pair in enumerate(zip(self.target, self.take, strict=True))}


@dataclass(frozen=True, slots=True, kw_only=True)
class SlipFact:
    """A jump of the player's time base before a place: `beats` quarter notes later."""

    kind: SlipKind
    bar: int
    beat: float
    """Quarter notes into the bar, from 1."""
    beats: float
    row: int | None = None
    """The first row after it; None where it is not known."""
    could_land: tuple[int, ...] = ()
    """The music is alike there, and it may as well have been before each of these target notes, the first of their
    moments. Empty where it was nowhere else."""
    is_told: bool = False
    """A teacher has said which of them."""
    attempts: int = 1
    """How often the music was begun there before it was gone through, that time included."""

    @property
    def landed(self) -> int | None:
        """Where among those it is told; None where its place is known."""
        before = [n for n in self.could_land if self.row is not None and n <= self.row]
        return before[-1] if before else None


@dataclass(frozen=True, slots=True, kw_only=True)
class SectionFact:
    """How one section of the part went: of its `notes` so many `right`, and these in the player's own time (ms,
    negative early). Tempos in quarters a minute: set, and played; None where too little was played to tell."""

    name: str
    bars: tuple[int, int]
    bpm: float
    notes: int
    right: int
    bias_ms: float | None
    spread_ms: float | None
    played_bpm: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoFact:
    """Bars that were played in one tempo, or in one that changes evenly; in quarters a minute. `click_bpm` is the tempo
    written where they begin."""

    bars: tuple[int, int]
    first_bpm: float
    last_bpm: float
    click_bpm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BarTempoFact:
    """The tempo of one bar in quarters a minute: the click's, that of its stretch, and what its own notes show, None
    where they are too few or time jumps among them."""

    bar: int
    click_bpm: float
    stretch_bpm: float
    own_bpm: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RampFact:
    """A written crescendo or diminuendo between two places, in quarters; slopes in velocity steps a quarter."""

    beats: tuple[float, float]
    target_slope: float
    take_slope: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PedalFact:
    """A written move of the sustain pedal, as `ear.measuring.pedal` says; `beat` in quarters into the bar, from 1."""

    move: PedalMove
    bar: int
    beat: float
    outcome: PedalOutcome
    deviation_ms: float | None
    row: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceFact:
    """Deviation at one sort of place, the take's own lead or lag taken off."""

    place: int | str
    count: int
    median_ms: float
    spread_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """Middles and spreads of the deviation, by place."""

    tick: tuple[PlaceFact, ...] = ()
    lane: tuple[PlaceFact, ...] = ()
    hand: tuple[PlaceFact, ...] = ()
    bar: tuple[PlaceFact, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class FigureFacts:
    """Figures over the whole take, as `ear.measuring.measures` says; None where there is none."""

    bias_ms: float | None
    spread_ms: float | None
    drift_ms_per_bar: float | None
    chord_spread_ms: float | None
    length_ratio: float | None
    overlap_ms: float | None
    swing_ratio: float | None
    target_swing_ratio: float | None
    level: float | None
    range: float | None
    contour: float | None
    accent_contrast: float | None
    target_accent_contrast: float | None
    evenness: float | None
    tempo_ratio: float
    played_bpm: float
    pace: tuple[float, float] | None = None
    """Where no notes are written, the player's tempo at the beginning and at the end, in quarter notes a minute; None where
    it is steady, or not known."""
    why_not: dict[str, str] = field(default_factory=dict)
    """For each figure that there is not, the code of the reason."""


@dataclass(frozen=True, kw_only=True)
class Facts:
    """`version` is that of the code which measured."""

    version: str
    target: TargetFacts
    take: TakeFacts
    counts: Counts
    rows: RowFacts
    figures: FigureFacts
    slips: tuple[SlipFact, ...]
    ramps: tuple[RampFact, ...]
    snap_errors: tuple[int, ...]
    """Target notes that quantising would put on another line."""
    transposition: int
    unplayed_bars_at_end: int
    profile: Profile
    findings: tuple[Finding, ...]
    pedal: tuple[PedalFact, ...] = ()
    """Written moves of the pedal, in order; those lifts are left out that had nothing to lift."""
    free: FreeFacts | None = None
    """Of an exercise without a target part, whose rows are notes where they should have been."""
    sections: tuple[SectionFact, ...] = ()
    """Of a part of several sections, in order."""
    tempo: tuple[TempoFact, ...] = ()
    """Stretches of the player's tempo, in order; none where nothing of the part was found."""
    bar_tempos: tuple[BarTempoFact, ...] = ()
    """Bar by bar, where the player did not keep to the click."""
    schema: int = SCHEMA

    @property
    def is_nothing(self) -> bool:
        """No note of the part was found in the take."""
        return not self.counts.matched and not self.counts.wrong_pitch
