"""Step entry: notes written as a line of words, one value after the other.

“C4 D4 E4+G4 _ - F4”: names with or without octave, “+” for notes together, “_” to hold the last ones
on, “-” for a rest. A name without octave is the nearest to the note before. For drums the words are
lanes: “kick+hat hat snare+hat hat”; spaces in a lane's name are written as a full stop, “open.hat”.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ear.editing.edited import Edited, rebuilt
from ear.errors import UnknownName, ValueOutOfRange
from ear.labels import PLAIN, Conventions
from ear.notes import STANDARD_KIT, Hand, KitMap, Note, OwnLane, Part
from ear.notes.chord_names import place_of
from ear.patterns.modes import LETTER_PITCHES
from ear.units import PITCH_MAX, PITCH_MIN

TOGETHER, HOLD, REST = "+", "_", "-"
WORDS_MOST = 400
FIRST_NEAR = 60
MIDDLE_C_OCTAVE = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Steps:
    """An edit, and the place where the next step would go."""

    edited: Edited
    next_tick: int


def write_steps(
    part: Part,
    text: str,
    *,
    at_tick: int,
    value_ticks: int,
    velocity: int,
    hand: Hand | None = None,
    kit: KitMap = STANDARD_KIT,
    conventions: Conventions = PLAIN,
) -> Steps:
    """Put a line of steps into the part from a place on.

    Raises UnknownName for a word that is no note (or lane), ValueOutOfRange for none or too many.
    """
    words = text.split()
    if not words or len(words) > WORDS_MOST:
        raise ValueOutOfRange("line_steps_has_1_words", words_most=WORDS_MOST)
    if value_ticks < 1 or at_tick < 0:
        raise ValueOutOfRange("steps_last_tick_more_begin")
    has_lanes = part.instrument.has_lanes
    new: list[Note] = []
    last: list[int] = []
    near, tick = FIRST_NEAR, at_tick
    for word in words:
        if word == HOLD:
            for k in last:
                new[k] = replace(new[k], length_tick=new[k].length_tick + value_ticks)
        elif word == REST:
            last = []
        else:
            last = []
            for name in word.split(TOGETHER):
                pitch, fifth = (
                    (_lane(name, kit, part.lanes), None) if has_lanes else read_note(name, near, conventions)
                )
                near = near if has_lanes else pitch
                last.append(len(new))
                new.append(
                    Note(
                        onset_tick=tick,
                        length_tick=part.instrument.written_ticks(value_ticks),
                        pitch=pitch,
                        velocity=velocity,
                        hand=None if has_lanes else hand,
                        fifth=fifth,
                    )
                )
            if has_lanes:
                last = []
        tick += value_ticks
    edited = rebuilt(part, [*((n, False) for n in part.notes), *((n, True) for n in new)])
    return Steps(edited=edited, next_tick=tick)


def read_name(name: str, part: Part, *, kit: KitMap = STANDARD_KIT, conventions: Conventions = PLAIN) -> int:
    """A pitch of a part by name (with octave, or the nearest to middle C), or a lane. Raises UnknownName.

    Names and octaves are those of the school's conventions; letters are read always.
    """
    if part.instrument.has_lanes:
        return _lane(name.strip(), kit, part.lanes)
    return read_note(name.strip(), FIRST_NEAR, conventions)[0]


def read_note(name: str, near: int, conventions: Conventions) -> tuple[int, int]:
    """A pitch by name, nearest to another where no octave is said, and the name as it was written, on the line of
    fifths. Raises UnknownName."""
    letters = name.rstrip("-0123456789")
    octave = name[len(letters) :]
    try:
        letter = conventions.as_letter(letters)
        fifth = place_of(letter)
        if octave:
            # The octave counts letters, so that C♭4 lies below C4.
            above = int(octave) - conventions.middle_c_octave + MIDDLE_C_OCTAVE
            pitch = 12 * (above + 1) + LETTER_PITCHES[letter[0].upper()] + (fifth + 1) // 7
        else:
            pitch = near + (7 * fifth - near + 6) % 12 - 6
    except (KeyError, ValueError):
        raise UnknownName(what="note", name=name, known=("C4", "F♯3", "Bb", "…")) from None
    if not PITCH_MIN <= pitch <= PITCH_MAX:
        raise ValueOutOfRange("beyond_keys", name=name)
    return pitch, fifth


def _lane(name: str, kit: KitMap, own: Sequence[OwnLane] = ()) -> int:
    wanted = name.replace(".", " ").lower()
    wanted = next((each.lane for each in own if each.name.lower() == wanted), wanted)
    for lane in kit.lanes:
        if lane.name == wanted:
            return lane.pitches[0]
    raise UnknownName(what="lane", name=name, known=tuple(lane.name.replace(" ", ".") for lane in kit.lanes))
