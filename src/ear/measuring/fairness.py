"""Are two takes one recording? Said, not accused."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.errors import FormatError
from ear.notes import Take
from ear.text import term

MIN_NOTES = 16
SAME_MS = 1.0
SAME_SHARE = 0.95
COMMON_SHARE = 0.75
"""Of the longer take that the two must have in common."""
OFFSETS = range(-8, 9)
"""Notes by which one take may begin later or earlier in the recording than the other."""
STEPS_PER_MS = 100
ROW = np.dtype([("onset", "<i4"), ("pitch", "u1")])


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Imprint:
    """What tells one recording from another: onsets in hundredths of a ms, and pitches; both (notes,)."""

    onsets: NDArray[np.int32]
    pitches: NDArray[np.uint8]

    def to_bytes(self) -> bytes:
        """Return five bytes for each note, small enough to read for a whole class."""
        rows = np.empty(len(self.onsets), dtype=ROW)
        rows["onset"], rows["pitch"] = self.onsets, self.pitches
        return rows.tobytes()

    @classmethod
    def from_bytes(cls, data: bytes) -> "Imprint":
        """Return the imprint that `to_bytes` wrote. Raises FormatError."""
        if len(data) % ROW.itemsize:
            raise FormatError(expected=term("five bytes a note"), actual=f"{len(data)} bytes")
        rows = np.frombuffer(data, dtype=ROW)
        return cls(onsets=rows["onset"], pitches=rows["pitch"])


def imprint(take: Take) -> Imprint:
    """Return the imprint of a take as it is read. Onsets beyond five hours are cut off there."""
    steps = np.clip(np.round(take.onsets_s * 1000.0 * STEPS_PER_MS), -(2**31), 2**31 - 1)
    return Imprint(onsets=steps.astype(np.int32), pitches=take.pitches.astype(np.uint8))


def is_same_recording(a: Imprint, b: Imprint) -> bool:
    """Return whether two imprints have the same onsets to the millisecond and the same keys, under any shift of
    time.

    Compares the gaps between notes, which a shift leaves alone. False below LEAST_NOTES.
    """
    if min(len(a.onsets), len(b.onsets)) < MIN_NOTES:
        return False
    gaps_a, gaps_b = (np.diff(one.onsets.astype(np.int64)) for one in (a, b))
    pitch_a, pitch_b = a.pitches[1:], b.pitches[1:]
    longest = max(len(gaps_a), len(gaps_b))
    for offset in OFFSETS:
        start_a, start_b = max(0, offset), max(0, -offset)
        count = min(len(gaps_a) - start_a, len(gaps_b) - start_b)
        if count < max(MIN_NOTES - 1, COMMON_SHARE * longest):
            continue
        near = np.abs(gaps_a[start_a : start_a + count] - gaps_b[start_b : start_b + count])
        same = near <= SAME_MS * STEPS_PER_MS
        same &= pitch_a[start_a : start_a + count] == pitch_b[start_b : start_b + count]
        if same.sum() >= SAME_SHARE * count:
            return True
    return False
