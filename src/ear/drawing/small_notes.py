"""Notes that the page draws small: cues, which are heard and not played, and grace notes."""

from collections.abc import Sequence

from ear.drawing.boxes import MIN_NOTE_WIDTH, NOTE_GAP, NOTE_HEIGHT, NoteBox
from ear.drawing.rows import RowBox
from ear.drawing.staff_places import StaffPlaces
from ear.labels.chosen import ORNAMENT_SIGNS
from ear.notation.graces import grace_before
from ear.notes import Note, Ornament, Part, spell
from ear.notes.pitch import Spelling, key_alteration
from ear.reader import Reader
from ear.text import gettext_noop

GRACE_WIDTH = 9.0
CUE = gettext_noop("cue {name}")


def cue_box(
    part: Part, note: Note, places: StaffPlaces, box: RowBox, tops: Sequence[float], shifts: Sequence[int], *, reader: Reader,
) -> NoteBox:  # fmt: skip
    """Return a cue as it is drawn in a row; `tops` and `shifts` are those of its staves."""
    place = places.place(note.pitch, note.hand, shifts, note.name_fifth)
    x = box.x(note.onset_tick)
    return NoteBox(
        id="", x=x, y=places.y(place, tops), height=NOTE_HEIGHT / 2, head=place.head, state="cue", pitch=note.pitch,
        velocity=note.velocity,
        width=0.0 if place.head else max(MIN_NOTE_WIDTH, box.x(note.end_tick, is_end=True) - x - NOTE_GAP),
        accidental=None, ledgers=places.ledgers(place, tops),
        words=reader.say(CUE, {"name": reader.sound(part, note.pitch, tick=note.onset_tick)}),
    )  # fmt: skip


def grace_box(
    part: Part, i: int, places: StaffPlaces, box: RowBox, tops: Sequence[float], shifts: Sequence[int], *, reader: Reader,
) -> NoteBox:  # fmt: skip
    """Return the small note just before a note, by its index, that has a grace note, at its own pitch."""
    note = part.notes[i]
    written = grace_before(part, i, step=spell(note.pitch, name_fifth=part.names[i]).step)
    assert written is not None
    small = Spelling(step=written.step, alteration=written.alteration)
    place = places.place(small.pitch, note.hand, shifts, small.name_fifth)
    x = box.x(note.onset_tick) - GRACE_WIDTH - NOTE_GAP
    is_in_key = small.alteration == key_alteration(small.step, fifths=part.fifths_at(note.onset_tick))
    return NoteBox(
        id="", x=x, y=places.y(place, tops), height=NOTE_HEIGHT / 2, head=None, state="cue", pitch=small.pitch,
        velocity=note.velocity, width=GRACE_WIDTH, accidental=None if is_in_key else places.sign(place, x, tops),
        ledgers=places.ledgers(place, tops),
        words=f"{ORNAMENT_SIGNS[Ornament.GRACE]} {reader.conventions.pitch(small.pitch, name_fifth=small.name_fifth)}",
    )  # fmt: skip
