"""Means of marks, with figures that can be added up by hand."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ear.criteria.credits import tenths

FINE = 2
"""Digits of a weight."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Weighed:
    """One mark in a mean: per cent to one digit, as it is printed, and what it weighs."""

    percent: float
    weight: float

    @property
    def part(self) -> float:
        """Percent times weight; exact to the digits that are printed."""
        return round(self.percent * self.weight, 1 + FINE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Mean:
    """`value` is the sum of the parts over the sum of the weights, to one digit; None where nothing counts."""

    marks: tuple[Weighed, ...]
    value: float | None

    @property
    def sum(self) -> float:
        """Of the parts, as they are printed."""
        return round(math.fsum(one.part for one in self.marks), 1 + FINE)

    @property
    def weight(self) -> float:
        """Of all of them."""
        return round(math.fsum(one.weight for one in self.marks), FINE)


def percent_of(points: float, out_of: float) -> float:
    """Return a mark as per cent, to one decimal. `out_of` must be above 0."""
    return tenths(100.0 * points / out_of)


def mean_of(marks: Sequence[Weighed]) -> Mean:
    """Return the weighted mean; None if no mark has a weight."""
    counted = tuple(one for one in marks if one.weight > 0)
    whole = math.fsum(one.weight for one in counted)
    if not counted or not whole:
        return Mean(marks=counted, value=None)
    return Mean(marks=counted, value=tenths(math.fsum(one.part for one in counted) / whole))
