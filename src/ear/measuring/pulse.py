"""The player's own pulse, followed through a take: what a listener beside him would tap.

Deviations from his time base are smoothed along the music by straight lines, each fitted to what was
played within some beats about a moment (local regression: Cleveland, "Robust locally weighted
regression and smoothing scatterplots", J. Am. Stat. Assoc. 74, 1979, with uniform weights, so that it
takes linear time). Notes far off their line are drawn near it before the second fit.
"""

import numpy as np

from ear.matching.fit import local_lines, robust_spread
from ear.measuring.figures import Floats, Ints
from ear.notes import KitMap, Part

REACH_QUARTERS = 8.0
"""So far to either side the pulse is taken from."""
SHAPED_MS, MIN_SHAPED = 40.0, 4
"""Notes between the beats that are so far from where the beats would have them are played so, if there are so many of both."""
STRAY_SPREADS = 2.5
MIN_SPREAD_MS = 5.0


def shaped_ms(part: Part, target: Ints, deviation_ms: Floats, *, kit: KitMap) -> Floats:
    """Return by how much notes between the beats are played apart from where the beats of the same hand, or lane, would
    have them, swung say: 0 on the beats, and everywhere where they are not clearly shaped.

    `target` and `deviation_ms` have shape (n,). The pulse, and a lead or lag, are what is left.
    """
    beat_ticks = np.array([bar.meter.beat_ticks for bar in part.bars])[part.bar_index_of_note[target]]
    between = part.ticks_into_bar[target] % beat_ticks != 0
    voice = kit.folds[part.pitches[target]] if part.instrument.has_lanes else part.hand_numbers[target]
    shaped = np.zeros(len(target))
    for each in np.unique(voice):
        off, on = between & (voice == each), ~between & (voice == each)
        if min(off.sum(), on.sum()) >= MIN_SHAPED:
            apart = float(np.median(deviation_ms[off]) - np.median(deviation_ms[on]))
            if abs(apart) >= SHAPED_MS:
                shaped[off] = apart
    return shaped


def from_pulse(quarter: Floats, deviation_ms: Floats) -> Floats:
    """Return deviations from the player's own pulse, in ms.

    `quarter` and `deviation_ms` have shape (n,), quarter ascending; empty arrays give an empty one.

    Whatever straight line is added to the deviations, the result is the same.
    """
    if not len(quarter):
        return deviation_ms
    first = np.searchsorted(quarter, quarter - REACH_QUARTERS, side="left")
    after = np.searchsorted(quarter, quarter + REACH_QUARTERS, side="right")
    # Over the whole first: what is left is small, so that sums do not lose digits.
    left = deviation_ms - _line(quarter, deviation_ms)
    pulse, _ = local_lines(quarter, left, first, after)
    reach = STRAY_SPREADS * max(MIN_SPREAD_MS, robust_spread(left - pulse))
    pulse, _ = local_lines(quarter, np.clip(left, pulse - reach, pulse + reach), first, after)
    deviation: Floats = left - pulse
    return deviation


def _line(x: Floats, y: Floats) -> Floats:
    spread = x - x.mean()
    square = float(spread @ spread)
    slope = float(spread @ y) / square if square > 1e-9 else 0.0
    fitted: Floats = y.mean() + slope * spread
    return fitted
