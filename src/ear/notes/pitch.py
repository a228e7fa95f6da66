"""Pitches by name, and their spelling in a key."""

from dataclasses import dataclass
from functools import cache

LETTERS = "CDEFGAB"
LETTER_FIFTHS = dict(zip("FCGDAEB", range(-1, 6), strict=True))
"""Letters on the line of fifths: C 0, G 1, F -1."""
BLACK_KEYS = frozenset({1, 3, 6, 8, 10})
"""Pitch classes."""
ALTERATION_SIGNS = {-2: "♭♭", -1: "♭", 0: "", 1: "♯", 2: "♯♯"}
NAMES_FROM, NAMES_TO = -15, 19
"""Names there are, on the line of fifths: from F double flat to B double sharp."""
ALONE_FROM = -3
"""A pitch of which nothing else is known is written from here on: in C from E flat to G sharp."""
SHARP_ORDER = (3, 0, 4, 1, 5, 2, 6)
"""Steps in the order in which a key signature sharpens them; flats take it backwards."""


STEPS_OF_C = (0, 2, 4, 5, 7, 9, 11)
"""Semitones from C up to each letter."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Spelling:
    """A pitch as it is written: diatonic step from C of MIDI octave -1, and alteration."""

    step: int
    alteration: int

    @property
    def letter(self) -> str:
        """The note's letter, without its accidental."""
        return LETTERS[self.step % 7]

    @property
    def pitch(self) -> int:
        """The MIDI pitch."""
        return 12 * (self.step // 7) + STEPS_OF_C[self.step % 7] + self.alteration

    @property
    def name_fifth(self) -> int:
        """Its place on the line of fifths: C 0, G 1, F -1, F sharp 6."""
        return (2 * (self.step % 7) + 1) % 7 - 1 + 7 * self.alteration


@cache
def spell(pitch: int, *, fifths: int = 0, name_fifth: int | None = None) -> Spelling:
    """Write a MIDI pitch: by its name on the line of fifths, if that is known, else by itself in a key (fifths: sharps
    positive, flats negative)."""
    if name_fifth is None:
        name_fifth = name_in_key(pitch, fifths)
    alteration = (name_fifth + 1) // 7
    return Spelling(step=7 * ((pitch - alteration) // 12) + 4 * name_fifth % 7, alteration=alteration)


def name_in_key(pitch: int, fifths: int) -> int:
    """Return the name of a single pitch in a key, on the line of fifths: one of the twelve places from three
    below the key's own.
    """
    start = fifths + ALONE_FROM
    return start + (7 * pitch - start) % 12


@cache
def names_of(pitch: int) -> tuple[int, ...]:
    """Return all names that a pitch can have, on the line of fifths, flats first."""
    lowest = NAMES_FROM + (7 * pitch - NAMES_FROM) % 12
    return tuple(range(lowest, NAMES_TO + 1, 12))


@cache
def key_alteration(step: int, *, fifths: int) -> int:
    """Return what the key signature does to a step: 1, 0 or -1 semitones."""
    if fifths > 0:
        return 1 if step % 7 in SHARP_ORDER[:fifths] else 0
    return -1 if step % 7 in SHARP_ORDER[7 + fifths :] and fifths < 0 else 0


@cache
def pitch_name(
    pitch: int, *, fifths: int = 0, name_fifth: int | None = None, middle_c_octave: int = 4
) -> str:
    """Return a pitch by name and octave, such as F♯4 with middle C as C4."""
    spelling = spell(pitch, fifths=fifths, name_fifth=name_fifth)
    octave = spelling.step // 7 - 1 + (middle_c_octave - 4)
    return f"{spelling.letter}{ALTERATION_SIGNS[spelling.alteration]}{octave}"
