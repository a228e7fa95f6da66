"""A long part as pieces of some bars each, so that no drawing of notation takes long."""

import numpy as np

from ear.notes import Part

NOTES_AT_ONCE = 1_500
"""In a piece, unless one bar alone has more."""


def bar_pieces(part: Part, *, most: int = NOTES_AT_ONCE) -> list[range]:
    """Return ranges of bar numbers that follow each other, each with at most so many notes; one at least."""
    counts = (
        np.bincount(part.bar_index_of_note, minlength=len(part.bars)) if part.notes else [0] * len(part.bars)
    )
    pieces: list[range] = []
    first, notes = part.first_bar, 0
    for number, count in enumerate(counts, start=part.first_bar):
        if notes and notes + int(count) > most:
            pieces.append(range(first, number))
            first, notes = number, 0
        notes += int(count)
    return [*pieces, range(first, part.last_bar + 1)]
