"""Names of notes and lanes as somebody types them."""

import re

from ear.conventions import PLAIN, Conventions
from ear.errors import UnknownName, ValueOutOfRange
from ear.notes import STANDARD_KIT, KitMap, Part
from ear.notes.chord_names import place_of
from ear.notes.kit import PERCUSSION
from ear.patterns.modes import LETTER_PITCHES
from ear.units import MAX_PITCH, MIN_PITCH

FIRST_NEAR = 60
"""What a first name without octave is near to."""
MIDDLE_C_OCTAVE = 4
NO_WORD = re.compile(r"[\s._+=/|:-]+")


def read_name(name: str, part: Part, *, kit: KitMap = STANDARD_KIT, conventions: Conventions = PLAIN) -> int:
    """Return the pitch that a name gives in a part (with octave, or the nearest to middle C), or a lane's
    number.

    Raises UnknownName.

    Names and octaves are those of the school's conventions; letters are read always.
    """
    if part.instrument.has_lanes:
        return read_lane(name, part, kit=kit)
    return read_note(name.strip(), FIRST_NEAR, conventions)[0]


def read_note(name: str, near: int, conventions: Conventions) -> tuple[int, int]:
    """Return the pitch that a name gives, nearest to another pitch if it has no octave, and its name on the
    line of fifths.

    Raises UnknownName, and ValueOutOfRange for a pitch beyond MIDI's.
    """
    letters = name.rstrip("-0123456789")
    octave = name[len(letters) :]
    try:
        letter = conventions.as_letter(letters)
        name_fifth = place_of(letter)
        if octave:
            # The octave counts letters, so that C♭4 lies below C4.
            above = int(octave) - conventions.middle_c_octave + MIDDLE_C_OCTAVE
            pitch = 12 * (above + 1) + LETTER_PITCHES[letter[0].upper()] + (name_fifth + 1) // 7
        else:
            pitch = near + (7 * name_fifth - near + 6) % 12 - 6
    except (KeyError, ValueError):
        raise UnknownName(kind="note", name=name, known=("C4", "F♯3", "Bb")) from None
    if not MIN_PITCH <= pitch <= MAX_PITCH:
        raise ValueOutOfRange("pitch_outside_keyboard", name=name)
    return pitch, name_fifth


def read_lane(name: str, part: Part, *, kit: KitMap = STANDARD_KIT) -> int:
    """Return the number that a lane sends, by the part's own name for it, the kit's, or General MIDI's.

    “.” and “_” stand for spaces. Raises UnknownName.
    """
    wanted = lane_word(name)
    for note in part.notes:
        if lane_word(part.lane_name(note.pitch, kit)) == wanted:
            return note.pitch
    own = next((each.lane for each in part.lanes if lane_word(each.name) == wanted), None)
    for lane in kit.lanes:
        if lane.name == own or lane_word(lane.name) == wanted:
            return lane.pitches[0]
    for pitch, called in PERCUSSION.items():
        if lane_word(called) == wanted:
            return pitch
    raise UnknownName(kind="lane", name=name, known=tuple(lane_word(lane.name) for lane in kit.lanes))


def lane_word(name: str) -> str:
    """Return a lane's name as one word, without the signs that have a meaning in a line of text."""
    return NO_WORD.sub("_", name.strip().casefold())
