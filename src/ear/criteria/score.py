"""A criterion's score, with the rows that lost credit and the sum that leads to it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NewType

from ear.criteria.levels import Window
from ear.criterion import CriterionKey
from ear.measuring.figures import Floats

LossReason = NewType("LossReason", str)
"""What a row has lost credit for. Stored; each criterion has its own."""
Verdict = NewType("Verdict", LossReason)
"""How a row went, in one word: most often what it has lost credit for."""
Value = str | int | float


def verdict(key: str) -> Verdict:
    """Return a loss that is told by its own name."""
    return Verdict(LossReason(key))


MISSED = verdict("missed")
IN_TIME = verdict("in_time")
"""Right, in all that counts."""
ABANDONED = verdict("abandoned")
"""Of a false start."""
NOT_COUNTED = verdict("not_counted")
"""Wrong, missed or too many, where that costs nothing."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkingLine:
    """One line of a sum: its code among the texts of its criterion, and its figures."""

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


NO_LOSSES = Losses()


@dataclass(frozen=True, slots=True, kw_only=True)
class CriterionScore:
    """A measured criterion, 0 to 100 to one digit; None where there is nothing to measure."""

    name: CriterionKey
    score: float | None
    losses: Losses = NO_LOSSES
    lines: tuple[WorkingLine, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Timed:
    """Timing, with the deviation by which each target row is judged, and the share in full credit."""

    scored: CriterionScore
    judged_ms: Floats
    """(target rows that count,); NaN where nothing was played."""
    within: float | None
    forgiven_ms: float
    window: Window
    """The one that most notes have."""
