"""What is drawn, as values: what goes in (a measured take, ear notes, remarks) and what comes out."""

from collections.abc import Sequence
from dataclasses import dataclass

from ear.criteria.dynamics import DYNAMICS
from ear.criteria.levels import Window
from ear.criteria.score import IN_TIME, LossReason, Verdict
from ear.criteria.table import FAULTS
from ear.criteria.timing import TIMING
from ear.criterion import CriterionKey
from ear.drawing.pedal import PedalLine
from ear.drawing.rows import BarBox, RowBox
from ear.drawing.strips import DriftStrip, WeightStrip
from ear.drawing.wheels import WheelStrip
from ear.facts.facts import Facts
from ear.judging.judgement import Judgement
from ear.labels.chosen import Label
from ear.notes import Kind, Take
from ear.units import MAX_VELOCITY

NOTE_HEIGHT = 8.0
MIN_NOTE_WIDTH = 5.0
NOTE_GAP = 2.0
"""Left open between one note's bar and the next."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Played:
    """A row of the match as the page needs it, with what the judgement says of it."""

    number: int
    """In the match."""
    target: int | None
    take: int | None
    outcome: str
    deviation_ms: float | None = None
    """From the player's own time base: where it is drawn."""
    judged_ms: float | None = None
    """By which it is judged, and where it stands in the Drift strip."""
    near: int | None = None
    verdict: Verdict = IN_TIME
    cost: float = 0.0
    """Points of the total."""
    time: LossReason | None = None
    touch: LossReason | None = None
    """What it lost credit for in Timing, and in Dynamics."""

    @property
    def is_fault(self) -> bool:
        """Is it among the verdicts that are stepped through?"""
        return self.verdict in FAULTS


@dataclass(frozen=True, slots=True, kw_only=True)
class Overlay:
    """A judged take to lay over the target. `tempo_ratio` is the player's."""

    take: Take
    rows: Sequence[Played]
    window: Window
    tempo_ratio: float = 1.0


def overlay_of(take: Take, facts: Facts, judged: Judgement) -> Overlay:
    """Return a take laid over its part for drawing, with facts and judgement for each row."""
    rows = facts.rows
    time, touch = (_reasons(judged, name) for name in (TIMING, DYNAMICS))
    return Overlay(
        take=take,
        rows=[
            Played(
                number=n,
                target=rows.target[n],
                take=rows.take[n],
                outcome=rows.outcome[n].value,
                deviation_ms=rows.deviation_ms[n],
                judged_ms=judged.scores.judged_ms[n],
                near=rows.near[n],
                verdict=judged.verdicts[n],
                cost=judged.row_costs[n],
                time=time.get(n),
                touch=touch.get(n),
            )
            for n in range(len(rows))
        ],
        window=judged.window,
        tempo_ratio=facts.figures.tempo_ratio,
    )


def _reasons(judged: Judgement, name: CriterionKey) -> dict[int, LossReason]:
    criterion = judged.criterion(name)
    if criterion is None or not criterion.weight:
        return {}
    return dict(zip(criterion.losses.row, criterion.losses.why, strict=True))


@dataclass(frozen=True, slots=True, kw_only=True)
class EarMark:
    """An ear note to bracket in the music: its letter, and the target notes it is about."""

    letter: str
    tone: str
    """`early`, `late`, `wrong` or `plain`."""
    targets: Sequence[int] = ()
    first_bar: int | None = None
    last_bar: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Flag:
    """A teacher's remark pinned to a place."""

    number: int
    tick: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Sign:
    """A music symbol at a place, by the name of its glyph."""

    glyph: str
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelAt:
    """A label that stands at a moment rather than at a note."""

    label: Label
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteBox:
    """A note to draw. Keyboard: a bar from x, `width` wide; drums: a head at x."""

    id: str
    x: float
    y: float
    width: float
    height: float
    head: str | None
    state: str
    pitch: int
    velocity: int
    accidental: Sign | None
    ledgers: tuple[float, ...]
    join: tuple[float, float] | None = None
    """For a wrong key: where it should have been."""
    words: str = ""
    labels: tuple[tuple[Label, ...], ...] = ()
    """Lines of labels over a note of a part that is shown alone, from the lowest up."""
    is_faded: bool = False
    """Not looked at just now."""

    @property
    def depth(self) -> float:
        """0 to 1, from the velocity: how dark a fill is."""
        return self.velocity / MAX_VELOCITY


@dataclass(frozen=True, slots=True, kw_only=True)
class SignShape:
    """A sign as it is drawn: a path, filled or not, or words at a place."""

    kind: str
    path: str = ""
    x: float = 0.0
    y: float = 0.0
    text: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StaffBox:
    """One staff of a row, with what stands at its left end."""

    y: float
    lines: tuple[float, ...]
    clef: Sign
    key: tuple[Sign, ...]
    octave: str
    """`8va` or `8vb` where the row is written an octave nearer, else empty."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bracket:
    """An ear note along the notes that it is about, in one row."""

    letter: str
    tone: str
    x: float
    width: float
    y: float
    opens: bool
    closes: bool

    @property
    def middle(self) -> float:
        """px from the left of the row."""
        return self.x + self.width / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class FlagBox:
    """A teacher's remark, by its number."""

    number: int
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SectionName:
    """The name of a section over the bar with which it begins, and its tempo where that is another one; any of them may
    stand alone."""

    name: str
    bpm: float | None
    """Quarter notes a minute."""
    written: int | None
    """The written bar that is played there, where the music goes back or on to another."""
    is_again: bool
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PageRow:
    """All that is drawn in one row of bars, in places counted from the row's own top."""

    box: RowBox
    top: float
    """Where the row stands on the page."""
    height: float
    first_note: int
    """The target note, by index, with which the row begins."""
    staves: tuple[StaffBox, ...]
    meters: tuple[Sign, ...]
    targets: tuple[NoteBox, ...]
    takes: tuple[NoteBox, ...]
    brackets: tuple[Bracket, ...]
    flags: tuple[FlagBox, ...]
    sections: tuple[SectionName, ...]
    cues: tuple[NoteBox, ...]
    labels: tuple[LabelAt, ...]
    note_signs: tuple[SignShape, ...]
    pedal: tuple[PedalLine, ...]
    played_pedal: tuple[PedalLine, ...]
    wheels: tuple[WheelStrip, ...]
    drift: DriftStrip | None
    weight: WeightStrip | None

    @property
    def bottom(self) -> float:
        """px from the top of the page."""
        return self.top + self.height

    @property
    def bars(self) -> tuple[BarBox, ...]:
        """The row's bars, from the left."""
        return self.box.bars

    @property
    def staff_top(self) -> float:
        """px from the top of the row to the uppermost line of its staves."""
        return self.staves[0].lines[0]

    @property
    def staff_bottom(self) -> float:
        """px from the top of the row to the lowest line of its staves."""
        return self.staves[-1].lines[-1]


@dataclass(frozen=True, slots=True, kw_only=True)
class PageView:
    """The whole page: rows from top to bottom."""

    width: float
    height: float
    staff_left: float
    rows: tuple[PageRow, ...]
    kind: Kind
