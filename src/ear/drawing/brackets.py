"""Ear notes as brackets along the notes that they are about."""

from collections.abc import Sequence

from ear.drawing.boxes import Bracket, EarMark
from ear.drawing.rows import RowBox
from ear.notes import Part

BRACKET_HEIGHT = 22.0
MIN_BRACKET = 26.0


def brackets_in_row(part: Part, ear_marks: Sequence[EarMark], box: RowBox, *, y: float) -> list[Bracket]:
    """Return the brackets of ear notes in one row. They take turns in height so that none runs into another."""
    spans: list[tuple[float, float, EarMark, bool, bool]] = []
    for mark in ear_marks:
        for first, last in _extents(part, mark):
            if last < box.start_tick or first >= box.end_tick:
                continue
            x = box.x(max(first, box.start_tick)) - 3
            right = box.x(min(last, box.end_tick), is_end=True) + (8 if last < box.end_tick else 0)
            opens, closes = first >= box.start_tick, last < box.end_tick
            spans.append((x, max(right, x + MIN_BRACKET), mark, opens, closes))
    taken: list[tuple[float, float]] = []
    brackets = []
    for x, right, mark, opens, closes in spans:
        if any(x < end and right > start for start, end in taken):
            continue
        taken.append((x - 6, right + 6))
        brackets.append(
            Bracket(letter=mark.letter, tone=mark.tone, x=x, width=right - x, y=y, opens=opens, closes=closes)
        )
    return brackets


def _extents(part: Part, mark: EarMark) -> list[tuple[int, int]]:
    """First and last tick of each stretch of a mark's notes; a bar without one parts them."""
    extents: list[tuple[int, int]] = []
    for tick in sorted(part.notes[i].onset_tick for i in mark.targets):
        bar = part.meters.bar_at(tick)
        if extents and extents[-1][1] >= bar.start_tick - bar.meter.bar_ticks:
            extents[-1] = (extents[-1][0], tick)
        else:
            extents.append((tick, tick))
    return extents
