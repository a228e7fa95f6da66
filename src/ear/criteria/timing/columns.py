"""What Timing has to know of each written note, kept with the facts: how much room it has, and how far from the click the
player stands there."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from ear.criteria.kind import Column
from ear.findings.context import Context
from ear.measuring.click_distance import ClickDistance
from ear.measuring.figures import Floats
from ear.measuring.room import room_ms

ROOM_MS = "room_ms"
"""Distance of the notes about it, in ms; None where it is so wide that no level is narrowed by it."""
APART_MS = "apart_ms"
"""By how much its hand, its lane or its fill is off from the rest, in ms, negative early; None where it is not."""
BESIDE, LOST, WAS_WITH = "beside", "lost", "was_with"
"""As `ClickDistance` has them; None where the player is with the click, and where the note was not played."""
WIDE_MS = 500.0
DIGITS = 3


def _room(c: Context) -> Sequence[float | None]:
    return [None if ms >= WIDE_MS else round(ms, 1) for ms in room_ms(c.part).tolist()]


def _of_click(values: Callable[[ClickDistance], Floats]) -> Column:
    def column(c: Context) -> Sequence[float | None]:
        kept: list[float | None] = [None] * len(c.part.notes)
        if c.measures.has_click and c.links:
            beside = np.flatnonzero(np.round(c.click_distance.beside, DIGITS))
            figures = np.round(values(c.click_distance)[beside], DIGITS)
            for target, figure in zip(c.linked[beside].tolist(), figures.tolist(), strict=True):
                kept[target] = figure
        return kept

    return column


def _apart(c: Context) -> Sequence[float | None]:
    kept: list[float | None] = [None] * len(c.part.notes)
    for target, ms in zip(c.linked.tolist(), c.causes.apart_ms.tolist(), strict=True):
        if ms:
            kept[target] = round(ms, 1)
    return kept


COLUMNS: Mapping[str, Column] = {
    ROOM_MS: _room,
    APART_MS: _apart,
    BESIDE: _of_click(lambda distance: distance.beside),
    LOST: _of_click(lambda distance: distance.lost),
    WAS_WITH: _of_click(lambda distance: distance.was_with),
}
