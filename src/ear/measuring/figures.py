"""A measured number, or the reason why there is none; and robust statistics."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ear.matching.fit import MAD_TO_SD, robust_spread

ALL_PAIRS_UP_TO = 300
"""Notes up to which every pair gives a slope; beyond, pairs half the notes apart do."""

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


class WhyNot(StrEnum):
    """Why there is no figure."""

    NO_TOUCH = "no_touch"
    NO_NOTES = "no_notes"
    FEW_NOTES = "few_notes"
    NO_ACCENTS = "no_accents"
    WRITTEN_FLAT = "written_flat"
    FEW_ALIKE = "few_alike"
    FEW_OFF_BEATS = "few_off_beats"
    STROKES_HAVE_NO_LENGTH = "drums_have_no_length"
    FEW_JOINED = "few_joined"
    ALL_PEDALLED = "all_pedalled"
    NO_CLICK = "no_click"
    FEW_BARS = "few_bars"
    NO_CHORDS = "no_chords"
    NO_REPEAT = "no_repeat"


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """Exactly one of the two is there."""

    value: float | None = None
    why_not: WhyNot | None = None


def figure(value: float) -> Figure:
    """Return a figure that is known."""
    return Figure(value=float(value))


def no_figure(why: WhyNot) -> Figure:
    """Return a figure that is missing, with the reason."""
    return Figure(why_not=why)


def steadiness(values: Floats, *, small: float) -> float:
    """Return the robust spread, corrected for what few values hide: the middle (and the line) that was taken
    off has been near to them all. values: (n,), n > small; `small` is 0.9 with the median taken off, 1.85
    with a line, 2 with a bent one: by simulation (1,500 normal samples for each n from 4 to 64).
    """
    return robust_spread(values) / (1.0 - small / len(values))


@dataclass(frozen=True, slots=True, kw_only=True)
class Groups:
    """Middle and spread of values by group; all (groups,), groups ascending."""

    group: Ints
    count: Ints
    median: Floats
    spread: Floats
    """1.4826 x median absolute deviation."""


MIN_CARRIED, MAX_CARRIED = 6, 0.85
"""Fewer values tell nothing of it; more carries over in no hand."""


def carry_over(values: Floats) -> float:
    """Return how much larger the standard error of a mean, or of a median, is than if each value were by itself: the root
    of (1 + r) / (1 - r), r the share of a deviation that carries over to the next one.

    Where hands wander, neighbours are alike, and so many notes say less. Values have shape (n,), in order of time; a straight
    line through them is a drift, and carries nothing over.
    Source: G. V. Bayley and J. M. Hammersley, "The effective number of independent observations in an autocorrelated time
    series", J. R. Stat. Soc. Suppl. 8, 1946; r from the first autocorrelation, with its bias in short rows taken out (M. G.
    Kendall, "Note on bias in the estimation of autocorrelation", Biometrika 41, 1954).
    """
    n = len(values)
    if n < MIN_CARRIED:
        return 1.0
    at = np.arange(n) - (n - 1) / 2.0
    away = values - values.mean()
    away = away - float(at @ away) / float(at @ at) * at
    # Strays are drawn in: one wild note is no evidence either way.
    reach = 3.0 * robust_spread(away)
    away = np.clip(away, -reach, reach) if reach > 0.0 else away
    square = float(away @ away)
    if square <= 0.0:
        return 1.0
    own = float(away[1:] @ away[:-1]) / square
    carried = min(MAX_CARRIED, max(0.0, own + (2.0 + 4.0 * own) / n))
    return float(np.sqrt((1.0 + carried) / (1.0 - carried)))


def robust_by_group(group: Ints, values: Floats) -> Groups:
    """Return the median and the robust spread of each group. `group` and `values` have shape (n,)."""
    groups, number, count = np.unique(group, return_inverse=True, return_counts=True)
    middle = _median_by_group(number, values, count)
    away = _median_by_group(number, np.abs(values - middle[number]), count)
    return Groups(group=groups, count=count, median=middle, spread=MAD_TO_SD * away)


def _median_by_group(number: Ints, values: Floats, count: Ints) -> Floats:
    ordered = values[np.lexsort((values, number))]
    start = np.cumsum(count) - count
    middle: Floats = (ordered[start + (count - 1) // 2] + ordered[start + count // 2]) / 2.0
    return middle


def theil_sen(x: Floats, y: Floats) -> float:
    """Return the median slope of y over x (Theil and Sen). x and y have shape (n,); 0 if no two x differ.

    Source: Theil 1950, Sen 1968. Over ALL_PAIRS_UP_TO points only those pairs are taken that
    stand half the points apart: as robust, in linear time.
    """
    n = len(x)
    if n <= ALL_PAIRS_UP_TO:
        i, j = np.triu_indices(n, 1)
    else:
        i = np.arange(n - n // 2)
        j = i + n // 2
    dx = x[j] - x[i]
    apart = dx > 1e-9
    return float(np.median((y[j] - y[i])[apart] / dx[apart])) if apart.any() else 0.0


def rank_correlation(x: Floats, y: Floats) -> float:
    """Return Spearman's rho with mean ranks for ties. x and y have shape (n,), each with at least two different
    values.
    """
    a, b = _ranks(x), _ranks(y)
    return float(np.corrcoef(a, b)[0, 1])


def _ranks(values: Floats) -> Floats:
    _, number, count = np.unique(values, return_inverse=True, return_counts=True)
    upto = np.cumsum(count)
    mean_rank: Floats = upto - (count - 1) / 2.0
    ranks: Floats = mean_rank[number]
    return ranks
