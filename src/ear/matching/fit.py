"""Straight lines through notes: one slope for all runs, and one about each place."""

from dataclasses import dataclass

import numpy as np

from ear.matching.grid import Floats, Ints

ROUNDS = 12
MAD_TO_SD = 1.4826
"""Median absolute deviation to standard deviation, for a normal distribution."""
MIN_SCALE = 0.004
"""Quarters: below a few ms all residuals weigh alike."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Lines:
    """x = slope * b + level[run]: one slope for all runs, a level for each."""

    slope: float
    level: Floats
    spread: float
    """Robust spread of the residuals, in quarters."""
    slope_error: float
    """Standard error of the slope for that spread; infinite where nothing fixes a slope."""


def robust_spread(values: Floats) -> float:
    """Return 1.4826 times the median absolute deviation about the median.

    The values have shape (n,), n >= 1.
    """
    return MAD_TO_SD * float(np.median(np.abs(values - np.median(values))))


def fit_lines(b: Floats, x: Floats, run: Ints, *, runs: int) -> Lines:
    """Return the common slope and the levels by least absolute deviations, found by re-weighting.

    b, x, run: (n,), n >= 1; every run in 0..runs-1 has a note. The slope is 1 where fewer than
    three notes or no extent in b leave it open. Source: iteratively re-weighted least squares
    for the L1 norm (Schlossmacher, JASA 68, 1973).
    """
    slope, weight = 1.0, np.ones(len(b))
    level = np.zeros(runs)
    for _ in range(ROUNDS):
        total = np.bincount(run, weight, runs)
        mean_b = np.bincount(run, weight * b, runs) / total
        mean_x = np.bincount(run, weight * x, runs) / total
        db, dx = b - mean_b[run], x - mean_x[run]
        extent = float(np.sum(weight * db * db))
        slope = float(np.sum(weight * db * dx)) / extent if len(b) > 2 and extent > 1e-9 else 1.0
        level = mean_x - slope * mean_b
        residual = x - slope * b - level[run]
        weight = 1.0 / np.maximum(np.abs(residual), MIN_SCALE)
    for r in range(runs):
        level[r] = np.median((x - slope * b)[run == r])
    spread = MAD_TO_SD * float(np.median(np.abs(x - slope * b - level[run])))
    apart = b - (np.bincount(run, b, runs) / np.bincount(run, minlength=runs))[run]
    leverage = float(np.sqrt(np.sum(apart * apart)))
    error = spread / leverage if leverage > 0 else float("inf")
    return Lines(slope=slope, level=level, spread=spread, slope_error=error)


def local_lines(x: Floats, y: Floats, first: Ints, after: Ints) -> tuple[Floats, Floats]:
    """Return, at each x, the value and the slope of the straight line through the points numbered first to
    after.

    All arrays have shape (n,).

    Least squares by running sums, in linear time; the slope is 0 where nothing fixes one.
    """
    x0 = x - x.mean()
    sums = [np.concatenate(([0.0], np.cumsum(v))) for v in (np.ones_like(x0), x0, y, x0 * x0, x0 * y)]
    n, sx, sy, sxx, sxy = (s[after] - s[first] for s in sums)
    square = sxx - sx * sx / n
    slope = np.where(square > 1e-6, (sxy - sx * sy / n) / np.where(square > 1e-6, square, 1.0), 0.0)
    return sy / n + slope * (x0 - sx / n), slope


def running_median(values: Floats, around: int) -> Floats:
    """Return the running median over each value and `around` neighbours on either side, mirrored at the ends.

    Shape (n,), n >= 1.
    """
    around = min(around, len(values) - 1)
    mirrored = np.pad(values, around, mode="reflect")
    medians: Floats = np.median(np.lib.stride_tricks.sliding_window_view(mirrored, 2 * around + 1), axis=1)
    return medians
