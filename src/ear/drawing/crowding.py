"""Notes that stand close together on a row, each with room of its own.

Bars a third apart that sound together are a little thinner than others. Where notes a second apart do, they are thin,
and the upper one begins to the right of the lower, as heads stand on two sides of a stem; of two on one line or
space one is raised, one lowered. Accidentals of a chord stand in columns, and a note that sounds up to one ends
before it.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import replace

from ear.drawing.boxes import NoteBox
from ear.staves import SPACE

SECOND = SPACE / 2
THIN = SECOND - 0.5
"""Height of a bar that has another one a second away,"""
CLOSE = 6.5
"""and of one that has another a third away."""
ASIDE, HEADS_ASIDE = 6.0, 10.0
"""px by which the upper one of a second begins later, as a bar and as a head."""
SIGN_WIDTH, SIGN_TALL = 9.0, 19.0
"""Of an accidental: two that stand nearer than its height need two columns."""
SIGN_REACH = 10.0
"""So near above and below an accidental a bar would touch it,"""
FLAT_REACH = 18.0
"""and above one with a stem."""
MIN_WIDTH = 5.0
TOGETHER_SHARE = 0.4
"""Of the shorter of two notes that must sound with the other."""
SAME = 0.5
"""px within which two places are one."""
OVER_NOTE, OVER_SIGN, LABELS_LINE = 9.0, 19.0, 12.0
"""From the middle of a note up to where words over it, or over its accidental, stand; and what each line of its own labels
adds to that."""
HIGHEST = 11.0
"""So far from the row's top words stand at least."""


def arranged(boxes: Sequence[NoteBox]) -> list[NoteBox]:
    """Return the notes of one row, in their order, with room made for each."""
    placed = list(boxes)
    by_x = sorted(range(len(placed)), key=lambda i: (placed[i].x, -placed[i].y))
    _set_apart(boxes, placed, by_x)
    _give_columns(boxes, placed, by_x)
    _end_before_signs(placed, by_x)
    return placed


def clear_of(notes: Sequence[NoteBox], *, left: float, right: float, y: float) -> float:
    """Return the y, in px, for words between two x that belong at `y`: there if it is free, otherwise above the
    notes that reach as high.
    """
    over = [
        n.y - OVER_NOTE - LABELS_LINE * len(n.labels)
        for n in notes
        if n.x < right and n.x + max(n.width, MIN_WIDTH) > left
    ]
    signs = (n.accidental for n in notes if n.accidental is not None)
    over += [sign.y - OVER_SIGN for sign in signs if sign.x < right and sign.x + SIGN_WIDTH > left]
    return max(min([y, *over]), min(y, HIGHEST))


def _ends(note: NoteBox) -> float:
    return note.x + (note.width if not note.head else 2 * SAME)


def _overlap(a: NoteBox, b: NoteBox) -> bool:
    """Do they sound together, and not only touch, as legato does?"""
    shorter = min(_ends(a) - a.x, _ends(b) - b.x)
    return min(_ends(a), _ends(b)) - max(a.x, b.x) > TOGETHER_SHARE * shorter


def _set_apart(stood: Sequence[NoteBox], boxes: list[NoteBox], by_x: Sequence[int]) -> None:
    """Seconds and unisons that sound together; moved notes are looked at where they stood."""
    moved: set[int] = set()
    sounding: list[int] = []
    for j in by_x:
        sounding = [i for i in sounding if _ends(stood[i]) - SAME > stood[j].x]
        for i in sounding:
            apart = abs(stood[i].y - stood[j].y)
            if apart > 2 * SECOND + SAME or not _overlap(stood[i], stood[j]):
                continue
            if not stood[i].head:
                tall = THIN if apart <= SECOND + SAME else CLOSE
                for k in (i, j):
                    boxes[k] = replace(boxes[k], height=min(boxes[k].height, tall))
            if apart > SECOND + SAME:
                continue
            together = abs(stood[i].x - stood[j].x) < SAME
            upper, lower = (i, j) if stood[i].y < stood[j].y else (j, i)
            if apart < SAME and not stood[i].head:
                boxes[upper] = replace(boxes[upper], y=stood[upper].y - SECOND / 2)
                boxes[lower] = replace(boxes[lower], y=stood[lower].y + SECOND / 2)
            if together and lower not in moved and upper not in moved:
                moved.add(upper)
                by = (
                    HEADS_ASIDE if stood[upper].head else min(ASIDE, max(0.0, stood[upper].width - MIN_WIDTH))
                )
                width = 0.0 if stood[upper].head else stood[upper].width - by
                boxes[upper] = replace(boxes[upper], x=stood[upper].x + by, width=width)
        sounding.append(j)


def _give_columns(stood: Sequence[NoteBox], boxes: list[NoteBox], by_x: Sequence[int]) -> None:
    """Accidentals of notes that are struck together, from the top, in the first column with room."""
    groups: list[list[int]] = []
    for i in by_x:
        if groups and stood[i].x - stood[groups[-1][0]].x < SAME:
            groups[-1].append(i)
        else:
            groups.append([i])
    for group in groups:
        left = stood[group[0]].x
        columns: list[float] = []
        for i in sorted(group, key=lambda i: boxes[i].y):
            sign = boxes[i].accidental
            if sign is None:
                continue
            column = next((k for k, y in enumerate(columns) if sign.y - y >= SIGN_TALL), len(columns))
            columns[column : column + 1] = [sign.y]
            x = left - SIGN_WIDTH - 1 - column * SIGN_WIDTH
            if x != sign.x:
                boxes[i] = replace(boxes[i], accidental=replace(sign, x=x))


def _end_before_signs(boxes: list[NoteBox], by_x: Sequence[int]) -> None:
    signs = sorted(
        (sign.x, sign.y, FLAT_REACH if sign.glyph.endswith("flat") else SIGN_REACH)
        for note in boxes
        if (sign := note.accidental) is not None
    )
    starts = [x for x, _y, _above in signs]
    for i in by_x:
        note = boxes[i]
        if note.head:
            continue
        first, last = bisect_right(starts, note.x), bisect_left(starts, note.x + note.width)
        for x, y, above in signs[first:last]:
            if x < note.x + note.width and -SIGN_REACH < y - note.y < above:
                boxes[i] = note = replace(note, width=max(min(MIN_WIDTH, note.width), x - 1 - note.x))
