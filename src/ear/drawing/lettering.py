"""Where the labels of moments stand in a row."""

from collections.abc import Mapping

from ear.drawing.boxes import LabelAt
from ear.drawing.rows import RowBox
from ear.labels import LabelKind
from ear.labels.chosen import Label, Labels

LABEL_LINE = 15.0
"""Height of a line of labels, in px."""


def labels_in_row(labels: Labels, box: RowBox, *, chords_y: float, from_y: float) -> tuple[LabelAt, ...]:
    """Chord names over the staves of a row, the other moments' labels in lines under them."""
    found = _along(box, LabelKind.CHORDS, labels.chords, chords_y)
    for k, (kind, texts) in enumerate(labels.lines):
        found += _along(box, kind, texts, from_y + k * LABEL_LINE)
    return tuple(found)


def _along(box: RowBox, kind: LabelKind, texts: Mapping[int, str], y: float) -> list[LabelAt]:
    return [
        LabelAt(label=Label(kind=kind, text=text), x=box.x(tick), y=y)
        for tick, text in texts.items()
        if text and box.start_tick <= tick < box.end_tick
    ]
