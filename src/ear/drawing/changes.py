"""Which rows of a page another state of the part draws anew."""

from collections.abc import Collection
from typing import Any

import numpy as np

from ear.drawing.page import page_rows
from ear.drawing.rows import RowBox, over_bars
from ear.labels import LabelKind
from ear.labels.chord_cards import chord_names
from ear.labels.chosen import ON_THE_PAGE
from ear.labels.typing_keys import layout_of
from ear.notes import STANDARD_KIT, Part
from ear.staves import staves_of


def changed_rows(
    before: Part,
    after: Part,
    *,
    width: float,
    labels: Collection[LabelKind] = ON_THE_PAGE,
    has_strips: bool = False,
) -> frozenset[int] | None:
    """Return the indices of rows that are drawn differently; None if the page has other rows or other staves.

    A row is drawn from its box, the staves, and what begins in it: only these are compared, so that
    a change of one note costs the drawing of one row.
    """
    if staves_of(before, kit=STANDARD_KIT) != staves_of(after, kit=STANDARD_KIT):
        return None
    if LabelKind.KEYS in labels and layout_of(before) != layout_of(after):
        return None
    if LabelKind.CHORDS in labels and _has_chord_names(before) != _has_chord_names(after):
        return None
    old = page_rows(before, width=width, has_strips=has_strips)
    new = page_rows(after, width=width, has_strips=has_strips)
    if len(old) != len(new):
        return None
    contents = zip(_contents(before, old, labels), _contents(after, new, labels), strict=True)
    return frozenset(k for k, (was, now) in enumerate(contents) if was != now)


def row_starts(part: Part, *, width: float, has_strips: bool = False) -> list[int]:
    """Return the index of the first note of each row of the page."""
    rows = page_rows(part, width=width, has_strips=has_strips)
    first_notes: list[int] = np.searchsorted(part.onset_ticks, [row.start_tick for row in rows]).tolist()
    return first_notes


def _has_chord_names(part: Part) -> bool:
    return part.instrument.has_key and bool(chord_names(part))


def _contents(part: Part, rows: list[RowBox], labels: Collection[LabelKind]) -> list[Any]:
    names = chord_names(part) if LabelKind.CHORDS in labels else {}
    over = over_bars(part)
    edges = np.searchsorted(part.onset_ticks, [*(r.start_tick for r in rows), rows[-1].end_tick]).tolist()
    # Notes behind the last row's end belong to it nowhere: there are none, a part ends in a bar.
    contents = []
    for k, row in enumerate(rows):
        span = range(row.start_tick, row.end_tick)
        contents.append((
            row,
            part.fifths_at(row.start_tick),
            part.notes[edges[k] : edges[k + 1]],
            part.names[edges[k] : edges[k + 1]] if part.instrument.has_key else (),
            [m for m in part.pedal if m.start_tick <= row.end_tick and m.end_tick >= row.start_tick],
            bool(part.pedal),
            [s for s in part.signs if s.tick < row.end_tick and s.end_tick >= row.start_tick],
            [cue for cue in part.cues if cue.onset_tick in span],
            [(tick, name) for tick, name in names.items() if tick in span],
            [over.get(bar.number) for bar in row.bars],
        ))  # fmt: skip
    return contents
