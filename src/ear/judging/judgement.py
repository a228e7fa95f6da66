"""What a take is worth, as values: scores as they are stored, and the judgement that everything reads."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from ear.criteria.levels import Window
from ear.criteria.score import NO_LOSSES, CriterionScore, Losses, Verdict, WorkingLine
from ear.findings.finding import Finding
from ear.judging.rubric import Band, TeacherCriterion
from ear.plain import from_plain, to_plain

SCHEMA = 1
VERSION = "2026.12.4"
"""Of the judging code; kept with all scores."""


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
    """The key of a measured criterion, or the key of one that is marked by hand."""
    score: float | None
    machine: float | None
    weight: int
    """Per cent of the total, whole; 0 where it has no score."""
    set_weight: float
    points: float
    """Score times weight: what it brings to the total."""
    lines: tuple[WorkingLine, ...] = ()
    losses: Losses = NO_LOSSES
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


LIKENESS = "likeness"
"""Bounds the mark of a take that is hardly the exercise."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ceiling:
    """The total is no more than `most`, by a criterion's score or by how much of the part was recognised."""

    of: str
    """The criterion's key, or LIKENESS."""
    by: float
    most: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CostedFinding:
    """An ear note with what of the loss it explains, in points of the total."""

    finding: Finding
    cost: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Rest:
    """What of the loss no ear note explains, in points of the total, and over how many notes it is spread."""

    cost: float
    notes: int


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
    rest: Rest
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
