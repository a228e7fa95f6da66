"""Pitches by name, and their spelling in a key."""

from dataclasses import dataclass

SHARP_STEPS = ((0, 0), (0, 1), (1, 0), (1, 1), (2, 0), (3, 0), (3, 1), (4, 0), (4, 1), (5, 0), (5, 1), (6, 0))
FLAT_STEPS = (
    (0, 0),
    (1, -1),
    (1, 0),
    (2, -1),
    (2, 0),
    (3, 0),
    (4, -1),
    (4, 0),
    (5, -1),
    (5, 0),
    (6, -1),
    (6, 0),
)
"""For each pitch class, the step (C = 0 … B = 6) and its alteration in semitones."""

LETTERS = "CDEFGAB"
BLACK_KEYS = frozenset({1, 3, 6, 8, 10})
"""Pitch classes."""
ALTERATION_SIGNS = {-1: "♭", 0: "", 1: "♯"}
SHARP_ORDER = (3, 0, 4, 1, 5, 2, 6)
"""Steps in the order in which a key signature sharpens them; flats take it backwards."""

INTERVALS = (
    "unison", "semitone", "tone", "minor third", "major third", "fourth", "tritone",
    "fifth", "minor sixth", "major sixth", "minor seventh", "major seventh", "octave",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Spelling:
    """A pitch as it is written: diatonic step from C of MIDI octave -1, and alteration."""

    step: int
    alteration: int

    @property
    def letter(self) -> str:
        """The note's letter, without its accidental."""
        return LETTERS[self.step % 7]


def spell(pitch: int, *, fifths: int = 0) -> Spelling:
    """Write a MIDI pitch in a key (fifths: sharps positive, flats negative).

    Keys with flats take flats for the black keys, others sharps: right for music that
    stays in its key, which is what exercises do.
    """
    steps = FLAT_STEPS if fifths < 0 else SHARP_STEPS
    step, alteration = steps[pitch % 12]
    return Spelling(step=step + 7 * (pitch // 12), alteration=alteration)


def key_alteration(step: int, *, fifths: int) -> int:
    """What the key signature does to a step: 1, 0 or -1."""
    if fifths > 0:
        return 1 if step % 7 in SHARP_ORDER[:fifths] else 0
    return -1 if step % 7 in SHARP_ORDER[7 + fifths :] and fifths < 0 else 0


def pitch_name(pitch: int, *, fifths: int = 0, middle_c_octave: int = 4) -> str:
    """A pitch by name and octave, such as F♯4 with middle C as C4."""
    spelling = spell(pitch, fifths=fifths)
    octave = spelling.step // 7 - 1 + (middle_c_octave - 4)
    return f"{spelling.letter}{ALTERATION_SIGNS[spelling.alteration]}{octave}"


def interval_name(semitones: int) -> str:
    """The size of an interval in words, up to two octaves, then in octaves."""
    size = abs(semitones)
    if size <= 12:
        return INTERVALS[size]
    octaves, rest = divmod(size, 12)
    if rest == 0:
        return f"{octaves} octaves"
    return f"{INTERVALS[rest]} and {'an octave' if octaves == 1 else f'{octaves} octaves'}"
