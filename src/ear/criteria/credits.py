"""What a take scores in each measured criterion, with the rows that lost credit.

Credits are hundredths and scores tenths, rounded here and nowhere else: so a sum that is printed can be
added up by hand, and what rows lost adds up to what their criterion lost.
"""

import math
from collections.abc import Sequence, Sized
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ear.criteria.score import MISSED, CriterionScore, Losses, LossReason, WorkingLine
from ear.criterion import CriterionKey
from ear.facts.facts import Facts
from ear.matching.outcome import Outcome
from ear.measuring.figures import Floats

Flags = NDArray[np.bool_]
Rows = NDArray[np.int64]
Reasons = NDArray[np.str_]


@dataclass(frozen=True, kw_only=True)
class FactsView:
    """Facts as arrays, with what a teacher has said of rows. Both flags: (rows,)."""

    facts: Facts
    counted: Flags
    marked_right: Flags

    @cached_property
    def targets(self) -> Rows:
        """Rows of target notes that count: those over which means are taken."""
        rows: Rows = np.flatnonzero(self.counted[: self.facts.target.notes])
        return rows

    def column(self, values: Sequence[float | None]) -> Floats:
        """Return a column for the target notes that count, as floats; NaN stands for None."""
        whole = np.array(values[: self.facts.target.notes], dtype=np.float64)
        kept: Floats = whole[self.targets]
        return kept

    def own(self, name: str, *, otherwise: float) -> Floats:
        """Return a column that one criterion asks for, in the unit of the column, shape (target notes that count,).

        `otherwise` stands for None, and for a column that the facts do not have.
        """
        column = self.facts.rows.own.get(name)
        if column is None:
            return np.full(len(self.targets), otherwise)
        values = self.column(column)
        filled: Floats = np.where(np.isnan(values), otherwise, values)
        return filled

    @property
    def short(self) -> int:
        """Notes that a free exercise asks for at least, and that were not played."""
        free = self.facts.free
        return 0 if free is None else max(0, free.wanted - len(self.targets))

    @cached_property
    def right(self) -> Flags:
        """Of the target notes that count, those that are said to be right."""
        flags: Flags = self.marked_right[self.targets]
        return flags

    @cached_property
    def is_played(self) -> Flags:
        """For each row: was the note played at all?"""
        flags: Flags = ~np.isnan(self.column(self.facts.rows.deviation_ms))
        return flags

    @cached_property
    def is_matched(self) -> Flags:
        """For each row: was it the right note?"""
        matched = Outcome.MATCHED
        whole = [outcome is matched for outcome in self.facts.rows.outcome[: self.facts.target.notes]]
        flags: Flags = np.array(whole, dtype=bool)[self.targets]
        return flags


def credit(size: Floats, *, full: Floats | float, none: Floats | float) -> Floats:
    """Return credits, 0 to 1: 1 up to `full`, 0 from `none` on, a straight line between, rounded to hundredths.

    It works element by element, and over `full` and `none`, too.
    """
    width = np.maximum(np.subtract(none, full), 1e-9)
    shares = np.round(np.clip((none - size) / width, 0.0, 1.0), 2)
    credits: Floats = np.where(size <= full, 1.0, shares).astype(np.float64)
    return credits


def tenths(value: float) -> float:
    """Return the value rounded half up to one decimal."""
    return math.floor(value * 10.0 + 0.5 + 1e-9) / 10.0


def reasons(*choices: tuple[Flags, LossReason], otherwise: LossReason) -> Reasons:
    """Return the first reason that holds for each row."""
    reasons: Reasons = np.select([flags for flags, _ in choices], [why for _, why in choices], otherwise)
    return reasons


def all_for(why: LossReason, rows: Sized) -> Reasons:
    """Return one reason for all rows."""
    return np.full(len(rows), why)


def spread(lost: float, rows: Rows, raw: Floats, why: Reasons) -> Losses:
    """Return points shared among rows in proportion to what each lost.

    Rows that lost nothing are left out.

    rows, raw, why: (n,).
    """
    there = raw > 0.0
    if lost <= 0.0 or not there.any():
        return Losses()
    shares = raw[there]
    return Losses(
        row=tuple(rows[there].tolist()),
        points=tuple((shares * (lost / float(shares.sum()))).tolist()),
        why=tuple(why[there].tolist()),
    )


def spread_evenly(lost: float, rows: Rows) -> Losses:
    """Return points shared equally among all rows, where no row in particular lost them."""
    return spread(lost, rows, np.ones(len(rows)), all_for(MISSED, rows))


def concat_losses(*parts: Losses) -> Losses:
    """Return several sorts of losses as one, in order."""
    return Losses(
        row=sum((p.row for p in parts), ()),
        points=sum((p.points for p in parts), ()),
        why=sum((p.why for p in parts), ()),
    )


def nothing_played(seen: FactsView, name: CriterionKey) -> CriterionScore:
    """Return a score of 0, lost by all rows equally."""
    if not seen.facts.take.notes:
        code = "take_empty"
    elif seen.facts.take.is_foreign:
        code = "take_foreign"
    else:
        code = "nothing_found"
    losses = spread_evenly(100.0, seen.targets)
    return CriterionScore(name=name, score=0.0, losses=losses, lines=(WorkingLine(code=code),))


def nan_as_zero(credits: Floats) -> Floats:
    """Return credits with NaN, where nothing was played, as 0."""
    filled: Floats = np.nan_to_num(credits, nan=0.0)
    return filled
