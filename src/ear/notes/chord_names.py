"""Chords as musicians write their names: what a name says of its tones."""

import re
from collections.abc import Sequence
from functools import lru_cache

QUALITIES = {
    "": (0, 4, 7),
    "m": (0, 3, 7),
    "dim": (0, 3, 6),
    "aug": (0, 4, 8),
    "5": (0, 7),
    "sus2": (0, 2, 7),
    "sus4": (0, 5, 7),
    "6": (0, 4, 7, 9),
    "m6": (0, 3, 7, 9),
    "7": (0, 4, 7, 10),
    "maj7": (0, 4, 7, 11),
    "m7": (0, 3, 7, 10),
    "mmaj7": (0, 3, 7, 11),
    "dim7": (0, 3, 6, 9),
    "m7b5": (0, 3, 6, 10),
    "7sus4": (0, 5, 7, 10),
    "aug7": (0, 4, 8, 10),
    "add9": (0, 4, 7, 14),
    "madd9": (0, 3, 7, 14),
    "9": (0, 4, 7, 10, 14),
    "maj9": (0, 4, 7, 11, 14),
    "m9": (0, 3, 7, 10, 14),
}
"""Semitones over the root."""
ALSO = {
    "maj": "", "min": "m", "mi": "m", "-": "m", "°": "dim", "o": "dim", "+": "aug", "sus": "sus4",
    "min7": "m7", "mi7": "m7", "-7": "m7", "ø": "m7b5", "ø7": "m7b5", "°7": "dim7", "o7": "dim7", "ma7": "maj7",
    "m7♭5": "m7b5", "-7b5": "m7b5", "+7": "aug7", "m(maj7)": "mmaj7", "7sus": "7sus4", "min6": "m6", "-6": "m6",
    "min9": "m9", "-9": "m9",
}  # fmt: skip
"""Other ways in which musicians write them."""
NAME = re.compile(r"([A-Ga-g][#b♯♭]?)([^/\s]*)(?:/([A-Ga-g][#b♯♭]?))?\Z")

TONES = {0: 0, 1: -5, 2: 2, 3: -3, 4: 4, 5: -1, 6: -6, 7: 1, 8: 8, 9: 3, 10: -2, 11: 5, 14: 2}
"""Fifths from the root to a tone so many semitones above it: thirds, fifths, sevenths by their names."""
LETTER_PLACES = dict(zip("FCGDAEB", range(-1, 6), strict=True))
SIGNS = {
    "#": 7, "♯": 7, "b": -7, "♭": -7, "": 0, "##": 14, "♯♯": 14, "x": 14, "bb": -14, "♭♭": -14,
}  # fmt: skip


def place_of(name: str) -> int:
    """A note name on the line of fifths: F♯ 6. Raises KeyError for what is none."""
    return LETTER_PLACES[name[:1].upper()] + SIGNS[name[1:]]


def tone_places(intervals: Sequence[int]) -> tuple[int, ...]:
    """The tones of a chord, so many semitones over its root, as fifths from the root: over a diminished triad nine is a
    diminished seventh."""
    is_diminished = {3, 6, 9} <= set(intervals) and not {7, 10, 11} & set(intervals)
    return tuple(
        -9 if i % 12 == 9 and is_diminished else TONES[i if i in TONES else i % 12] for i in intervals
    )


@lru_cache(maxsize=1024)
def tones_of(name: str) -> dict[int, int]:
    """The names of a chord's tones on the line of fifths, by pitch class, the bass among them; nothing for a name that
    nobody can read. Not to be changed."""
    found = NAME.match(name)
    quality = ALSO.get(found[2], found[2]) if found else ""
    if found is None or quality not in QUALITIES:
        return {}
    root = place_of(found[1])
    places = [root + place for place in tone_places(QUALITIES[quality])]
    if found[3]:
        places.append(place_of(found[3]))
    return {7 * place % 12: place for place in places}
