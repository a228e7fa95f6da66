"""Where words stand in a row: labels of moments, names of sections."""

from collections.abc import Mapping, Sequence

from ear.drawing.boxes import LabelAt, NoteBox, SectionName
from ear.drawing.crowding import clear_of
from ear.drawing.rows import OverBar, RowBox
from ear.labels import LabelKind
from ear.labels.chosen import Label, Labels
from ear.notes import Hand, Note

LABEL_LINE = 15.0
"""Height of a line of labels, in px."""


def labels_of_notes(notes: Sequence[Note], labels: Labels) -> list[tuple[tuple[Label, ...], ...]]:
    """Return each note's lines of labels, from the lowest up.

    The labels of a chord stand over its top note, a line for each note in the order of the notes: at its own note, each
    would stand on the note above. Drum heads are far enough apart to keep theirs.
    """
    lines: list[tuple[tuple[Label, ...], ...]] = [
        (at_note,) if (at_note := labels.at_note(note)) else () for note in notes
    ]
    if labels.part.instrument.has_lanes:
        return lines
    chords: dict[tuple[int, Hand | None], list[int]] = {}
    for index, note in enumerate(notes):
        chords.setdefault((note.onset_tick, note.hand), []).append(index)
    for members in chords.values():
        column = tuple(line for index in members for line in lines[index])
        for index in members:
            lines[index] = column if index == members[-1] else ()
    return lines


def chords_line(labels: Labels, box: RowBox, notes: Sequence[NoteBox], *, staff_top: float) -> float | None:
    """Return the distance, in px from the row's top, of the line of chord names, clear of the row's notes; None
    if the row has no chords.
    """
    return clear_of(notes, left=0.0, right=box.right, y=staff_top - LABEL_LINE) if labels.has_chords else None


def labels_in_row(
    labels: Labels, box: RowBox, *, chords_y: float | None, from_y: float
) -> tuple[LabelAt, ...]:
    """Return the labels of a row: chord names above the staves, the other labels of each moment in lines below
    them.
    """
    placed = [] if chords_y is None else _along(box, LabelKind.CHORDS, labels.chords, chords_y)
    for k, (kind, texts) in enumerate(labels.lines):
        placed += _along(box, kind, texts, from_y + k * LABEL_LINE)
    return tuple(placed)


def section_names(
    over_bar: Mapping[int, OverBar], box: RowBox, notes: Sequence[NoteBox], *, y: float
) -> tuple[SectionName, ...]:
    """Return the section names of a row by bar number, each at `y` or clear of its bar's notes."""
    return tuple(
        SectionName(
            **over_bar[bar.number]._asdict(),
            x=bar.x,
            y=clear_of(notes, left=bar.x, right=bar.x + bar.width, y=y),
        )
        for bar in box.bars
        if bar.number in over_bar
    )


def _along(box: RowBox, kind: LabelKind, texts: Mapping[int, str], y: float) -> list[LabelAt]:
    return [
        LabelAt(label=Label(kind=kind, text=text), x=box.x(tick), y=y)
        for tick, text in texts.items()
        if text and box.start_tick <= tick < box.end_tick
    ]
