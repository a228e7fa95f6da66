"""The player's own pulse, followed through a take: what a listener beside him would tap.

Deviations from his time base are smoothed along the music by straight lines, each fitted to what was
played within some beats about a moment (local regression: Cleveland, "Robust locally weighted
regression and smoothing scatterplots", J. Am. Stat. Assoc. 74, 1979, with uniform weights, so that it
takes linear time). Notes far off their line are drawn near it before the second fit.
"""

import numpy as np

from ear.measuring.figures import Floats, robust_spread

REACH_QUARTERS = 8.0
"""So far to either side the pulse is taken from."""
STRAY_SPREADS = 2.5
SPREAD_LEAST_MS = 5.0


def from_pulse(quarter: Floats, deviation_ms: Floats) -> Floats:
    """Deviations from the pulse, in ms. quarter, deviation_ms: (n,), quarter ascending; empty gives empty.

    Whatever straight line is added to the deviations, the result is the same.
    """
    if not len(quarter):
        return deviation_ms
    first = np.searchsorted(quarter, quarter - REACH_QUARTERS, side="left")
    after = np.searchsorted(quarter, quarter + REACH_QUARTERS, side="right")
    # Over the whole first: what is left is small, so that sums do not lose digits.
    left = deviation_ms - _line(quarter, deviation_ms)
    pulse = _local(quarter, left, first, after)
    reach = STRAY_SPREADS * max(SPREAD_LEAST_MS, robust_spread(left - pulse))
    found: Floats = left - _local(quarter, np.clip(left, pulse - reach, pulse + reach), first, after)
    return found


def _line(x: Floats, y: Floats) -> Floats:
    spread = x - x.mean()
    square = float(spread @ spread)
    slope = float(spread @ y) / square if square > 1e-9 else 0.0
    fitted: Floats = y.mean() + slope * spread
    return fitted


def _local(x: Floats, y: Floats, first: np.ndarray, after: np.ndarray) -> Floats:
    """At each x the value of the straight line through the points numbered first to after."""
    x0 = x - x.mean()
    sums = [np.concatenate(([0.0], np.cumsum(v))) for v in (np.ones_like(x0), x0, y, x0 * x0, x0 * y)]
    n, sx, sy, sxx, sxy = (s[after] - s[first] for s in sums)
    square = sxx - sx * sx / n
    slope = np.where(square > 1e-6, (sxy - sx * sy / n) / np.where(square > 1e-6, square, 1.0), 0.0)
    value: Floats = sy / n + slope * (x0 - sx / n)
    return value
