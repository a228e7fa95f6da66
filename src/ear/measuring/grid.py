"""The grid on which a part is written."""

import numpy as np

from ear.notes import Part
from ear.units import TICKS_PER_QUARTER

GRID_STEPS = (480, 240, 160, 120, 80, 60, 40, 30)
"""Ticks to which a part can be quantised: quarter, eighth, triplet eighth, sixteenth, triplet sixteenth, thirty-second …"""
NOTES_A_QUARTER = (1, 2, 3, 4, 5, 6, 7, 8, 12, 16)
"""Into which a quarter is divided: in two, triplets, semiquavers, quintuplets, sextuplets, septuplets …"""
OFF_GRID_TICKS = 3
ON_GRID_SHARE = 0.95


def grid_step(part: Part) -> int:
    """Return the widest step, in ticks, on which nearly all onsets are; the finest one if none does."""
    onsets = part.onset_ticks
    if not len(onsets):
        return TICKS_PER_QUARTER
    for notes in NOTES_A_QUARTER:
        step = TICKS_PER_QUARTER / notes
        off = np.abs((onsets + step / 2) % step - step / 2)
        if float(np.mean(off <= OFF_GRID_TICKS)) >= ON_GRID_SHARE:
            return round(step)
    return round(TICKS_PER_QUARTER / NOTES_A_QUARTER[-1])
