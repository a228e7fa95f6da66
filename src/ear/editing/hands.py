"""Which hand plays what."""

from dataclasses import replace

from ear.editing.edited import Edited, Selection, changed
from ear.errors import ValueOutOfRange
from ear.notes import Hand, Part
from ear.notes.pitch import BLACK_KEYS
from ear.patterns.fingering import known_fingers

OUT_OF_POSITION = 9
"""Semitones that five fingers do not cover without moving."""
THUMB = 1


def split_hands(part: Part, selection: Selection, *, at_pitch: int) -> Edited:
    """From a pitch up the right hand, below it the left. Raises ValueOutOfRange for drums."""
    if not part.instrument.has_hands:
        raise ValueOutOfRange("drum_parts_not_written_for")
    return changed(
        part, selection, lambda n: replace(n, hand=Hand.RIGHT if n.pitch >= at_pitch else Hand.LEFT)
    )


def refingered(part: Part) -> Part:
    """A part that was moved to another key, its fingers by the tables there. A hand that plays a scale or an arpeggio has
    its fingers by that; what lies in one position, and chords, keep theirs; of any other line fingers are left out where a
    thumb would stand on a black key beside white ones."""
    fingers = [n.finger for n in part.notes]
    for hand in Hand:
        own = [i for i, n in enumerate(part.notes) if n.hand is hand and n.finger is not None]
        pitches = [part.notes[i].pitch for i in own]
        if not own or max(pitches) - min(pitches) < OUT_OF_POSITION:
            continue
        is_line = len({part.notes[i].onset_tick for i in own}) == len(own)
        known = known_fingers(pitches, hand=hand) if is_line else None
        if known is not None:
            for i, finger in zip(own, known, strict=True):
                fingers[i] = finger
        elif is_line and any(
            part.notes[i].finger == THUMB and part.notes[i].pitch % 12 in BLACK_KEYS for i in own
        ):
            for i in own:
                fingers[i] = None
    return replace(part, notes=tuple(replace(n, finger=f) for n, f in zip(part.notes, fingers, strict=True)))
