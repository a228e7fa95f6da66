"""A mark sheet: what was measured, what a teacher says instead or besides, and the total of both."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ear.marking.criteria import WorkingLine
from ear.marking.levels import Window
from ear.marking.marks import weigh
from ear.marking.rubric import Band, HandCriterion, Rubric


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """What a teacher says of a criterion. Without a score it is left out of the mark on purpose."""

    score: float | None
    why: str = ""
    ticked: tuple[int, ...] = ()
    """Of a checklist, by number."""

    def to_json(self) -> dict[str, Any]:
        return {"score": self.score, "why": self.why, "ticked": list(self.ticked)}

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> "Given":
        return cls(score=data["score"], why=data.get("why", ""), ticked=tuple(data.get("ticked", ())))


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetRow:
    """One criterion. `machine` is Oido's own score, `score` what counts."""

    name: str
    score: float | None
    machine: float | None
    weight: float
    """Share of the total in per cent; 0 where it has no score."""
    set_weight: float
    working: tuple[WorkingLine, ...]
    given: Given | None
    hand: HandCriterion | None
    """Set for one that is marked by hand."""

    @property
    def is_changed(self) -> bool:
        return self.hand is None and self.given is not None

    @property
    def is_to_be_marked(self) -> bool:
        return self.hand is not None and self.given is None

    @property
    def why(self) -> str:
        return self.given.why if self.given else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """`total` is of 100, `points` is the mark as it is written."""

    rows: tuple[SheetRow, ...]
    before_help: float
    help_cost: float
    total: float
    points: float
    out_of: int
    band: Band

    @property
    def to_be_marked(self) -> tuple[SheetRow, ...]:
        """Criteria that still wait for the teacher."""
        return tuple(row for row in self.rows if row.is_to_be_marked)


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """A measured criterion, as it is stored."""

    name: str
    score: float | None
    weight: float
    working: tuple[WorkingLine, ...] = ()


def make_sheet(
    measured: Sequence[Measured],
    *,
    rubric: Rubric,
    window: Window,
    given: Mapping[str, Given],
    help_step: int | None = None,
) -> Sheet:
    """Put what is given over what was measured, add what is marked by hand, weigh, take off help's cost."""
    machine = {c.name: c.score for c in measured}
    rows: list[tuple[str, float, float | None, tuple[WorkingLine, ...]]] = []
    for c in measured:
        said = given.get(c.name)
        rows.append((c.name, c.weight, said.score if said else c.score, c.working))
    for own in rubric.hand:
        said = given.get(own.key)
        rows.append((own.key, own.weight, said.score if said else None, ()))
    marked = weigh(rows, rubric=rubric, window=window)
    is_helped = help_step is not None and 0 <= help_step < len(rubric.help)
    cost = rubric.help[help_step].cost if is_helped and help_step is not None else 0.0
    total = max(0.0, marked.score - cost)
    return Sheet(
        rows=tuple(
            SheetRow(
                name=str(c.name),
                score=c.score,
                machine=machine.get(c.name),
                weight=c.weight,
                set_weight=c.set_weight,
                working=c.working,
                given=given.get(c.name),
                hand=rubric.criterion(c.name),
            )
            for c in marked.criteria
        ),
        before_help=marked.score,
        help_cost=cost,
        total=total,
        points=rubric.points(total),
        out_of=rubric.out_of,
        band=rubric.band(total),
    )
