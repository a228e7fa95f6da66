"""Are two takes one recording? Said, not accused."""

import numpy as np

from ear.notes import Take

LEAST_NOTES = 16
SAME_MS = 1.0
SAME_SHARE = 0.95
COMMON_SHARE = 0.75
"""Of the longer take that the two must have in common."""
OFFSETS = range(-8, 9)
"""Notes by which one take may begin later or earlier in the recording than the other."""


def is_same_recording(a: Take, b: Take) -> bool:
    """The same onsets to the millisecond and the same keys, under any shift of time.

    Compares the gaps between notes, which a shift leaves alone. False below LEAST_NOTES.
    """
    if min(len(a.notes), len(b.notes)) < LEAST_NOTES:
        return False
    gaps_a, gaps_b = (np.diff([n.onset_s for n in take.notes]) * 1000.0 for take in (a, b))
    pitch_a, pitch_b = (np.array([n.pitch for n in take.notes[1:]]) for take in (a, b))
    longest = max(len(gaps_a), len(gaps_b))
    for offset in OFFSETS:
        start_a, start_b = max(0, offset), max(0, -offset)
        count = min(len(gaps_a) - start_a, len(gaps_b) - start_b)
        if count < max(LEAST_NOTES - 1, COMMON_SHARE * longest):
            continue
        same = np.abs(gaps_a[start_a : start_a + count] - gaps_b[start_b : start_b + count]) <= SAME_MS
        same &= pitch_a[start_a : start_a + count] == pitch_b[start_b : start_b + count]
        if same.sum() >= SAME_SHARE * count:
            return True
    return False
