"""A long part as pieces of some bars each, so that no drawing of notation takes long."""

import numpy as np

from ear.notes import Part

NOTES_AT_ONCE = 1_500
"""In a piece, unless one bar alone has more."""


def bar_pieces(part: Part, *, most: int = NOTES_AT_ONCE) -> list[range]:
    """Return ranges of bar numbers that follow each other, each with at most so many notes; one at least."""
    counts = (
        np.bincount(part.bar_of_note, minlength=len(part.bars) + 1)[1:]
        if part.notes
        else [0] * len(part.bars)
    )
    pieces: list[range] = []
    first, notes = 1, 0
    for number, count in enumerate(counts, start=1):
        if notes and notes + int(count) > most:
            pieces.append(range(first, number))
            first, notes = number, 0
        notes += int(count)
    return [*pieces, range(first, len(part.bars) + 1)]
