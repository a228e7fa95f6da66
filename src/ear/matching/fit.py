"""Robust straight lines through linked notes: tempo ratio and the jumps between runs."""

from dataclasses import dataclass

import numpy as np

from ear.matching.grid import Floats, Ints

ROUNDS = 12
SCALE_LEAST = 0.004
"""Quarters: below a few ms all residuals weigh alike."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Lines:
    """x = slope * b + level[run]: one slope for all runs, a level for each."""

    slope: float
    level: Floats
    spread: float
    """1.4826 x median absolute deviation of the residuals, in quarters."""
    slope_error: float
    """Standard error of the slope for that spread; infinite where nothing fixes a slope."""


def fit_lines(b: Floats, x: Floats, run: Ints, *, runs: int) -> Lines:
    """Common slope and levels by least absolute deviations, found by re-weighting.

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
        weight = 1.0 / np.maximum(np.abs(residual), SCALE_LEAST)
    for r in range(runs):
        level[r] = np.median((x - slope * b)[run == r])
    spread = 1.4826 * float(np.median(np.abs(x - slope * b - level[run])))
    apart = b - (np.bincount(run, b, runs) / np.bincount(run, minlength=runs))[run]
    leverage = float(np.sqrt(np.sum(apart * apart)))
    error = spread / leverage if leverage > 0 else float("inf")
    return Lines(slope=slope, level=level, spread=spread, slope_error=error)
