"""The constant latency of a set-up, from taps along with a click."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ear.errors import ValueOutOfRange
from ear.matching.fit import robust_spread

MIN_BEATS = 6
"""So many beats must have been tapped: of eight two may be missed."""
NEAREST_MS = 300.0
"""A tap further from every beat was meant for none."""
OUTLIER_SPREADS = 3.0
SPREAD_FLOOR_MS = 6.0
STEADY_MS = 25.0
"""Taps that spread further say little about the set-up."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibration:
    """`offset_ms`: so much later than the click a tap arrives, taken off from then on."""

    offset_ms: float
    spread_ms: float
    taps: int
    left_out: int

    @property
    def is_steady(self) -> bool:
        """Is the spread small enough to trust?"""
        return self.spread_ms <= STEADY_MS


def calibrate(taps_ms: Sequence[float], beats_ms: Sequence[float]) -> Calibration:
    """Return the median deviation, in ms, of the taps from the beats nearest to them.

    `taps_ms` and `beats_ms` are times on one clock. Of two taps at one beat the nearer counts. Taps
    further than three spreads (a robust one: the median absolute deviation, scaled to a normal
    distribution's SD) from the middle are left out. Raises ValueOutOfRange where fewer than six beats
    were tapped.
    """
    beats = np.sort(np.asarray(beats_ms, dtype=np.float64))
    taps = np.asarray(taps_ms, dtype=np.float64)
    nearest: dict[int, float] = {}
    for tap in taps.tolist():
        if not beats.size:
            break
        beat = int(np.argmin(np.abs(beats - tap)))
        off = tap - float(beats[beat])
        if abs(off) <= NEAREST_MS and abs(off) < abs(nearest.get(beat, np.inf)):
            nearest[beat] = off
    offs = np.array(list(nearest.values()))
    if offs.size < MIN_BEATS:
        raise ValueOutOfRange("too_few_taps", beats_least=MIN_BEATS, size=offs.size)
    middle = float(np.median(offs))
    spread = max(SPREAD_FLOOR_MS, robust_spread(offs))
    used = offs[np.abs(offs - middle) <= OUTLIER_SPREADS * spread]
    offset = float(np.median(used))
    return Calibration(
        offset_ms=offset,
        spread_ms=robust_spread(used),
        taps=int(used.size),
        left_out=int(taps.size - used.size),
    )
