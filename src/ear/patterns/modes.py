"""Scales by name, and the keys that they are written in."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ear.errors import UnknownName, ValueOutOfRange
from ear.notes.pitch import LETTER_FIFTHS, LETTERS
from ear.text import term

MAJOR_NAMES = ("C♭", "G♭", "D♭", "A♭", "E♭", "B♭", "F", "C", "G", "D", "A", "E", "B", "F♯", "C♯")
MINOR_NAMES = ("A♭", "E♭", "B♭", "F", "C", "G", "D", "A", "E", "B", "F♯", "C♯", "G♯", "D♯", "A♯")
"""From seven flats to seven sharps."""


class Mode(StrEnum):
    """A scale's pattern of steps."""

    MAJOR = term("major")
    NATURAL_MINOR = term("natural minor")
    HARMONIC_MINOR = term("harmonic minor")
    MELODIC_MINOR = term("melodic minor")
    CHROMATIC = term("chromatic")
    MAJOR_PENTATONIC = term("major pentatonic")
    MINOR_PENTATONIC = term("minor pentatonic")
    DORIAN = term("dorian")
    PHRYGIAN = term("phrygian")
    LYDIAN = term("lydian")
    MIXOLYDIAN = term("mixolydian")
    LOCRIAN = term("locrian")


STEPS = {
    Mode.MAJOR: (0, 2, 4, 5, 7, 9, 11),
    Mode.NATURAL_MINOR: (0, 2, 3, 5, 7, 8, 10),
    Mode.HARMONIC_MINOR: (0, 2, 3, 5, 7, 8, 11),
    Mode.MELODIC_MINOR: (0, 2, 3, 5, 7, 9, 11),
    Mode.CHROMATIC: tuple(range(12)),
    Mode.MAJOR_PENTATONIC: (0, 2, 4, 7, 9),
    Mode.MINOR_PENTATONIC: (0, 3, 5, 7, 10),
    Mode.DORIAN: (0, 2, 3, 5, 7, 9, 10),
    Mode.PHRYGIAN: (0, 1, 3, 5, 7, 8, 10),
    Mode.LYDIAN: (0, 2, 4, 6, 7, 9, 11),
    Mode.MIXOLYDIAN: (0, 2, 4, 5, 7, 9, 10),
    Mode.LOCRIAN: (0, 1, 3, 5, 6, 8, 10),
}
"""Semitones over the tonic, going up."""

DOWN_STEPS = {Mode.MELODIC_MINOR: STEPS[Mode.NATURAL_MINOR]}
"""Where a scale comes down another way than it goes up."""

FIFTHS_BELOW_MAJOR = {
    Mode.NATURAL_MINOR: 3,
    Mode.HARMONIC_MINOR: 3,
    Mode.MELODIC_MINOR: 3,
    Mode.MINOR_PENTATONIC: 3,
    Mode.DORIAN: 2,
    Mode.PHRYGIAN: 4,
    Mode.LYDIAN: -1,
    Mode.MIXOLYDIAN: 1,
    Mode.LOCRIAN: 5,
}
"""How many fifths flatter a key signature is than that of the major key of the same tonic."""

ALTERATIONS = {"": 0, "♯": 1, "#": 1, "♭": -1, "b": -1}
LETTER_PITCHES = dict(zip(LETTERS, (0, 2, 4, 5, 7, 9, 11), strict=True))
SHARPS_PER_KEY, SEVEN = 7, 7


@dataclass(frozen=True, slots=True, kw_only=True)
class Tonic:
    """A note name without octave: what a scale or a chord stands on."""

    letter: str
    alteration: int = 0

    def __post_init__(self) -> None:
        if self.letter not in LETTERS or abs(self.alteration) > 1:
            raise ValueOutOfRange("tonic_unreadable")

    @classmethod
    def named(cls, name: str) -> "Tonic":
        """Return a tonic from a name such as “F♯”, “Bb” or “C”. Raises UnknownName."""
        letter, sign = name[:1].upper(), name[1:]
        if not letter or letter not in LETTERS or sign not in ALTERATIONS:
            raise UnknownName(kind="note", name=name, known=("C", "F♯", "B♭"))
        return cls(letter=letter, alteration=ALTERATIONS[sign])

    @property
    def name(self) -> str:
        """The note with its accidental."""
        return self.letter + {1: "♯", 0: "", -1: "♭"}[self.alteration]

    @property
    def pitch_class(self) -> int:
        """Semitones over C, 0 to 11."""
        return (LETTER_PITCHES[self.letter] + self.alteration) % 12

    @property
    def major_fifths(self) -> int:
        """Sharps (flats, if negative) of the major key on it; may be more than seven."""
        return LETTER_FIFTHS[self.letter] + SHARPS_PER_KEY * self.alteration


def key_fifths(tonic: Tonic, mode: Mode) -> int:
    """Return the key signature of a scale; its enharmonic equivalent if it has more than seven signs."""
    fifths = tonic.major_fifths - FIFTHS_BELOW_MAJOR.get(mode, 0)
    while fifths > SEVEN:
        fifths -= 12
    while fifths < -SEVEN:
        fifths += 12
    return fifths


def pitches(bottom: int, mode: Mode, *, octaves: int) -> tuple[int, ...]:
    """Return a scale going up from a pitch; its last note is the tonic so many octaves above."""
    return (*(bottom + 12 * o + step for o in range(octaves) for step in STEPS[mode]), bottom + 12 * octaves)


def pitches_down(bottom: int, mode: Mode, *, octaves: int) -> tuple[int, ...]:
    """Return the scale coming down to a pitch from so many octaves above it."""
    steps = DOWN_STEPS.get(mode, STEPS[mode])
    up = (*(bottom + 12 * o + step for o in range(octaves) for step in steps), bottom + 12 * octaves)
    return up[::-1]


DEGREES = {
    Mode.MAJOR_PENTATONIC: (0, 1, 2, 4, 5),
    Mode.MINOR_PENTATONIC: (0, 2, 3, 4, 6),
}
"""Letters over the tonic of scales that leave some out."""
MAJOR_PLACES = (0, 2, 4, -1, 1, 3, 5)
"""Fifths from the tonic of a major scale to its notes."""
RAISED = (0, 7, 2, 9, 4, -1, 6, 1, 8, 3, 10, 5)
LOWERED = (0, -5, 2, -3, 4, -1, -6, 1, -4, 3, -2, 5)
"""Of a chromatic scale, going up and coming down."""


def scale_names(tonic: Tonic, mode: Mode, *, is_down: bool = False) -> dict[int, int]:
    """Return the names of a scale's notes on the line of fifths, by pitch class: each degree has its own
    letter, in the key in which the scale is written.
    """
    signature = key_fifths(tonic, mode)
    root = tonic.major_fifths + signature - (tonic.major_fifths - FIFTHS_BELOW_MAJOR.get(mode, 0))
    if mode is Mode.CHROMATIC:
        places: Sequence[int] = LOWERED if is_down else RAISED
    else:
        steps = DOWN_STEPS.get(mode, STEPS[mode]) if is_down else STEPS[mode]
        letters = DEGREES.get(mode, range(len(steps)))
        major = STEPS[Mode.MAJOR]
        places = [MAJOR_PLACES[d] + 7 * (step - major[d]) for d, step in zip(letters, steps, strict=True)]
    return {7 * (root + place) % 12: root + place for place in places}


def key_name(fifths: int, *, is_minor: bool = False) -> str:
    """Return the name of a key: C, B♭; a minor one as C minor."""
    return f"{MINOR_NAMES[fifths + 7]} minor" if is_minor else MAJOR_NAMES[fifths + 7]
