"""What a take is worth, as values: scores as they are stored, and the judgement that everything reads."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from ear.criteria import CriterionName
from ear.findings.confusions import Value
from ear.findings.finding import Finding
from ear.judging.levels import Window
from ear.judging.rubric import Band, TeacherCriterion
from ear.plain import from_plain, to_plain

SCHEMA = 1
VERSION = "2026.12.3"
"""Of the judging code; kept with all scores."""


class LossReason(StrEnum):
    """What a row has lost credit for."""

    MISSED = "missed"
    WRONG = "wrong"
    EXTRA = "extra"
    DOUBLE = "double"
    GRAZE = "graze"
    ORNAMENT = "ornament"
    """Of an ornament that is not written."""
    OVERLAID = "overlaid"
    EARLY = "early"
    LATE = "late"
    BESIDE = "beside"
    SLIP = "slip"
    SHORT = "short"
    LONG = "long"
    SOFT = "soft"
    LOUD = "loud"
    BLURRED = "blurred"
    DRY = "dry"
    PEDAL_EARLY = "pedal_early"
    PEDAL_LATE = "pedal_late"


class Verdict(StrEnum):
    """How a row went, in one word. All but the first and the last two are faults: rows that lost credit."""

    IN_TIME = "in_time"
    """Right, in all that counts."""
    EARLY = "early"
    LATE = "late"
    BESIDE = "beside"
    """In the player's own time, not in the click's."""
    WRONG = "wrong"
    MISSED = "missed"
    TOO_MANY = "too_many"
    SLIP = "slip"
    """The first note after a slip, a skip or a restart."""
    SHORT = "short"
    LONG = "long"
    SOFT = "soft"
    LOUD = "loud"
    BLURRED = "blurred"
    """The pedal was not changed here."""
    DRY = "dry"
    """The pedal was not down here."""
    PEDAL_EARLY = "pedal_early"
    PEDAL_LATE = "pedal_late"
    ABANDONED = "abandoned"
    """Of a false start."""
    NOT_COUNTED = "not_counted"
    """Wrong, missed or too many, where that costs nothing."""


FAULTS = frozenset(Verdict) - {Verdict.IN_TIME, Verdict.ABANDONED, Verdict.NOT_COUNTED}
TOO_MANY = (LossReason.EXTRA, LossReason.DOUBLE, LossReason.GRAZE, LossReason.ORNAMENT, LossReason.OVERLAID)
VERDICT_OF: dict[LossReason, Verdict] = {
    **{why: Verdict(why.value) for why in LossReason if why not in TOO_MANY},
    **dict.fromkeys(TOO_MANY, Verdict.TOO_MANY),
}
SPEAKS_FIRST = (
    CriterionName.NOTES, CriterionName.TIMING, CriterionName.FLOW, CriterionName.LENGTH, CriterionName.DYNAMICS,
    CriterionName.PEDAL,
)  # fmt: skip
"""Of a row that lost in several criteria, the one that gives its verdict."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkingLine:
    """One line of a sum: its code in `ear.judging.working`, and its figures."""

    code: str
    values: Mapping[str, Value] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Losses:
    """Rows that lost credit, with points of the criterion's 100 and what for; all one length."""

    row: tuple[int, ...] = ()
    points: tuple[float, ...] = ()
    why: tuple[LossReason, ...] = ()

    def __len__(self) -> int:
        return len(self.row)


@dataclass(frozen=True, slots=True, kw_only=True)
class CriterionScore:
    """A measured criterion, 0 to 100 to one digit; None where there is nothing to measure."""

    name: CriterionName
    score: float | None
    losses: Losses = Losses()
    lines: tuple[WorkingLine, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Scores:
    """The machine's part of a judgement: facts seen by some rules. Stored as a row of its own."""

    version: str
    level: str
    window: Window
    forgiven_ms: float
    """The lead or lag that is taken off, with its sign."""
    criteria: tuple[CriterionScore, ...]
    judged_ms: tuple[float | None, ...]
    """Of each row, the deviation by which it is judged and drawn."""
    within_window: float | None
    """Share of played notes in full credit; None where no note was played."""
    likeness: float = 1.0
    waived: tuple[int, ...] = ()
    """Rows that a teacher has said to be right, or not to count; not known of scores that an older version made."""
    is_first_release: bool = False
    """A mark of the first release: weighed as it was then, by unrounded weights, without ceilings."""
    schema: int = SCHEMA


@dataclass(frozen=True, slots=True, kw_only=True)
class TeacherScore:
    """What a teacher says of a criterion. Without a score it is left out of the mark on purpose."""

    score: float | None
    why: str = ""
    ticked: tuple[int, ...] = ()
    """Of a checklist, by number."""

    def to_json(self) -> dict[str, object]:
        """Return this as plain values for JSON."""
        plain: dict[str, object] = to_plain(self)
        return plain

    @classmethod
    def from_json(cls, data: Mapping[str, object]) -> "TeacherScore":
        """Return the value that `to_json` wrote. Raises FormatError."""
        return from_plain(data, cls, expected="a changed mark")


@dataclass(frozen=True, slots=True, kw_only=True)
class Criterion:
    """One criterion as it counts. `machine` is Oido's own score, `score` what counts."""

    name: str
    """A `CriterionName`, or the key of one that is marked by hand."""
    score: float | None
    machine: float | None
    weight: int
    """Per cent of the total, whole; 0 where it has no score."""
    set_weight: float
    points: float
    """Score times weight: what it brings to the total."""
    lines: tuple[WorkingLine, ...] = ()
    losses: Losses = Losses()
    """In points of its 100, with the teacher's score: they add up to what it lost, as far as the machine
    has found where."""
    teacher_score: TeacherScore | None = None
    teacher_criterion: TeacherCriterion | None = None
    """Set for one that is marked by hand."""

    @property
    def is_changed(self) -> bool:
        """Did a teacher change what was measured?"""
        return self.teacher_criterion is None and self.teacher_score is not None

    @property
    def is_to_be_marked(self) -> bool:
        """Does it wait for a teacher's mark?"""
        return self.teacher_criterion is not None and self.teacher_score is None

    @property
    def why(self) -> str:
        """The teacher's reason; empty if there is none."""
        return self.teacher_score.why if self.teacher_score else ""


class CeilingOf(StrEnum):
    """What bounds a whole mark."""

    NOTES = "notes"
    TIMING = "timing"
    LIKENESS = "likeness"


@dataclass(frozen=True, slots=True, kw_only=True)
class Ceiling:
    """The total is no more than `most`, by a criterion's score or by how much of the part was recognised."""

    of: CeilingOf
    by: float
    most: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CostedFinding:
    """An ear note with what its rows cost, in points of the total."""

    finding: Finding
    cost: float


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """All that is said of a take's worth; pages, paper, lists and JSON read nothing else."""

    scores: Scores
    criteria: tuple[Criterion, ...]
    sum: float
    """Of the criteria's points."""
    ceiling: Ceiling | None
    """The one that holds, if one does."""
    help_cost: float
    late_cost: float
    total: float
    """Of 100."""
    points: float
    """The mark as it is written, out of `out_of`."""
    out_of: int
    band: Band
    verdicts: tuple[Verdict, ...]
    """Of each row."""
    row_costs: tuple[float, ...]
    """Of each row, points of the total."""
    faults: tuple[CostedFinding, ...]
    """Ear notes about what went wrong or is to be known, the most costly first."""
    praise: tuple[Finding, ...]

    @property
    def window(self) -> Window:
        """Full and no credit, in ms."""
        return self.scores.window

    @cached_property
    def to_be_marked(self) -> tuple[Criterion, ...]:
        """Criteria that still wait for the teacher: until then the mark is “so far”."""
        return tuple(c for c in self.criteria if c.is_to_be_marked)

    def criterion(self, name: str) -> Criterion | None:
        """Return one criterion by name; None if the mark does not have it."""
        return next((c for c in self.criteria if c.name == name), None)
