"""Slurs, articulations, fermatas and words in a row of the page."""

from collections.abc import Iterator, Sequence

from ear.drawing.boxes import NoteBox, SignShape
from ear.drawing.crowding import clear_of
from ear.drawing.rows import RowBox
from ear.labels.chosen import DRAWN
from ear.notes import GRACES, Articulation, Hand, Note, Part, SignKind, StaffSign

UNDER_NOTE, OVER_SLUR = 9.0, 9.0
"""px from the middle of a note down to its articulations, and up to the end of a slur."""
SLUR_HEIGHT, FERMATA_WIDTH, DOT = 12.0, 12.0, 1.7
MARK_WIDTH, MARK_GAP = 8.0, 6.0
SMALL, SMALL_FROM, SMALL_STEP = 2.3, 8.5, 5.5
"""Of a small stroke before another one: its size, and how far before it stands."""
WORDS_WIDTH = 60.0
"""px in which words over a note keep clear of what is below them."""


def signs_in_row(
    part: Part, box: RowBox, notes: Sequence[tuple[Note, NoteBox]], *, words_y: float
) -> tuple[SignShape, ...]:
    """Return the signs of one row; `notes` are its written notes as they are drawn, `words_y` where words belong."""
    boxes = [note_box for _, note_box in notes]
    shapes = [shape for note, note_box in _lowest(notes) for shape in _articulations(note, note_box)]
    shapes += [
        shape
        for note, note_box in notes
        if note.ornament in DRAWN
        for shape in _small_strokes(note, note_box)
    ]
    for sign in part.signs:
        begins_here = box.start_tick <= sign.tick < box.end_tick
        if sign.kind is SignKind.SLUR:
            if sign.tick < box.end_tick and sign.end_tick >= box.start_tick:
                shapes += _slur(sign, box, notes)
        elif begins_here and sign.kind is SignKind.TEXT:
            x = box.x(sign.tick)
            y = clear_of(boxes, left=x, right=x + WORDS_WIDTH, y=words_y)
            shapes.append(SignShape(kind="text", x=x, y=y, text=sign.text))
        elif begins_here:
            x = box.x(sign.tick)
            y = clear_of(boxes, left=x, right=x + FERMATA_WIDTH, y=words_y)
            half = FERMATA_WIDTH / 2
            arc = f"M{x:.1f} {y:.1f}a{half} {half} 0 0 1 {FERMATA_WIDTH} 0"
            shapes += [
                SignShape(kind="fermata", path=arc),
                SignShape(kind="dot", path=_dot(x + half, y - 1.5)),
            ]
    return tuple(shapes)


def _lowest(notes: Sequence[tuple[Note, NoteBox]]) -> Iterator[tuple[Note, NoteBox]]:
    """Of a chord of one hand its lowest note, which has the articulations of all."""
    lowest: dict[tuple[int, Hand | None], tuple[Note, NoteBox]] = {}
    for note, note_box in notes:
        if note.articulations:
            lowest.setdefault((note.onset_tick, note.hand), (note, note_box))
    yield from lowest.values()


def _articulations(note: Note, box: NoteBox) -> Iterator[SignShape]:
    x, y = box.x + 1.0, box.y + UNDER_NOTE
    for mark in note.articulations:
        if mark is Articulation.STACCATO:
            yield SignShape(kind="dot", path=_dot(x + MARK_WIDTH / 2, y))
        elif mark is Articulation.TENUTO:
            yield SignShape(kind="tenuto", path=f"M{x:.1f} {y:.1f}h{MARK_WIDTH}")
        else:
            yield SignShape(kind="accent", path=f"M{x:.1f} {y - 2.5:.1f}l{MARK_WIDTH} 2.5l-{MARK_WIDTH} 2.5")
        y += MARK_GAP


def _dot(x: float, y: float, r: float = DOT) -> str:
    return f"M{x - r:.1f} {y:.1f}a{r} {r} 0 1 0 {2 * r} 0a{r} {r} 0 1 0 -{2 * r} 0"


def _small_strokes(note: Note, box: NoteBox) -> Iterator[SignShape]:
    """Before a flam one, before a drag two, on the line of the stroke."""
    assert note.ornament is not None
    for k in range(GRACES[note.ornament]):
        x = box.x - SMALL_FROM - SMALL_STEP * k
        yield SignShape(kind="dot", path=_dot(x, box.y, SMALL))
        yield SignShape(kind="tenuto", path=f"M{x + SMALL - 0.5:.1f} {box.y:.1f}v-9")


def _slur(sign: StaffSign, box: RowBox, notes: Sequence[tuple[Note, NoteBox]]) -> Iterator[SignShape]:
    """An arc over the notes of its hand; where it goes on in another row it reaches to the row's edge."""
    under = [
        (note, note_box)
        for note, note_box in notes
        if (note.hand is Hand.LEFT) is sign.is_left and sign.tick <= note.onset_tick <= sign.end_tick
    ]
    if not under:
        return

    def top(tick: int) -> float:
        ys = [note_box.y for note, note_box in under if note.onset_tick == tick]
        return min(ys or [note_box.y for _, note_box in under]) - OVER_SLUR

    first_x = box.x(sign.tick) + 3.0 if sign.tick >= box.start_tick else box.x(box.start_tick)
    last_x = box.x(sign.end_tick) + 3.0 if sign.end_tick < box.end_tick else box.right
    first_y, last_y = top(sign.tick), top(sign.end_tick)
    peak = min([first_y, last_y, *(note_box.y - OVER_SLUR for _, note_box in under)]) - SLUR_HEIGHT / 2
    # A curve whose middle lies as high as the peak has its handle twice as far.
    handle = 2 * peak - (first_y + last_y) / 2
    yield SignShape(
        kind="slur",
        path=f"M{first_x:.1f} {first_y:.1f}Q{(first_x + last_x) / 2:.1f} {handle:.1f} {last_x:.1f} {last_y:.1f}",
    )
