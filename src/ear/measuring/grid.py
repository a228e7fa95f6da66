"""The grid on which a part is written."""

import numpy as np

from ear.notes import Part

GRID_STEPS = (480, 240, 160, 120, 80, 60, 40, 30)
"""Ticks: quarter, eighth, triplet eighth, sixteenth, triplet sixteenth, thirty-second …"""
OFF_GRID_TICKS = 3
ON_GRID_SHARE = 0.95


def grid_step(part: Part) -> int:
    """Return the widest step, in ticks, on which nearly all onsets are; the finest one if none does."""
    onsets = part.onset_ticks
    if not len(onsets):
        return GRID_STEPS[0]
    for step in GRID_STEPS:
        off = np.abs((onsets + step // 2) % step - step // 2)
        if float(np.mean(off <= OFF_GRID_TICKS)) >= ON_GRID_SHARE:
            return step
    return GRID_STEPS[-1]
