"""Chords as musicians write their names: what a name says of its tones."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from ear.notes.pitch import LETTER_FIFTHS

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
    "7alt": (0, 4, 8, 10, 13, 15),
    "aug7": (0, 4, 8, 10),
    "add9": (0, 4, 7, 14),
    "madd9": (0, 3, 7, 14),
    "9": (0, 4, 7, 10, 14),
    "maj9": (0, 4, 7, 11, 14),
    "m9": (0, 3, 7, 10, 14),
    "6/9": (0, 4, 7, 9, 14),
    "m6/9": (0, 3, 7, 9, 14),
    "7b9": (0, 4, 7, 10, 13),
    "7#9": (0, 4, 7, 10, 15),
    "maj7#11": (0, 4, 7, 11, 18),
    "9sus4": (0, 5, 7, 10, 14),
    "11": (0, 4, 7, 10, 14, 17),
    "m11": (0, 3, 7, 10, 14, 17),
    "13": (0, 4, 7, 10, 14, 21),
}
"""Semitones over the root."""
NAME = re.compile(r"([A-Ha-h][#b♯♭]?)((?:6/9|[^/\s])*)(?:/([A-Ha-h][#b♯♭]?))?\Z")
"""Root, quality, and bass after a slash; an accidental behind the letter is the root's: F♯5 is a fifth on F♯."""
NO_CHORD = "N.C."
NO_CHORDS = frozenset({"n.c.", "n.c", "nc"})
LETTER_PLACES = LETTER_FIFTHS | {"H": 5}
"""H is the German name of B."""
SIGNS = {
    "#": 7, "♯": 7, "b": -7, "♭": -7, "": 0, "##": 14, "♯♯": 14, "x": 14, "bb": -14, "♭♭": -14,
}  # fmt: skip
TONES = {
    0: 0, 1: -5, 2: 2, 3: -3, 4: 4, 5: -1, 6: -6, 7: 1, 8: 8, 9: 3, 10: -2, 11: 5, 13: -5, 14: 2, 15: 9, 16: 4,
    17: -1, 18: 6, 20: -4, 21: 3, 22: 10,
}  # fmt: skip
"""Fifths from the root to a tone so many semitones above it: thirds, fifths, sevenths by their names."""
_SAME = str.maketrans(
    {"♭": "b", "♯": "#", "−": "-", "–": "-", "(": None, ")": None, ",": None, "Δ": "^", "∆": "^"}
)
_KINDS = ("alt", "half", "dim", "aug", "major", "minor", "sus", "add", "six", "alter", "figure")
_MANY = frozenset({"add", "alter"})
"""What may stand more than once."""
_TOKEN = re.compile(
    r"(?P<alt>alt)|(?P<half>ø|hdim)|(?P<dim>dim|°|o)|(?P<aug>aug|\+(?!\d)|\+(?=7))|(?P<major>major|maj|ma(?!dd)|j|M|\^)"
    r"|(?P<minor>minor|min|mi|m)|(?P<sus>sus[24]?)|(?P<add>add[#b]?(?:2|4|6|9|11|13))|(?P<six>6/9|69)"
    r"|(?P<alter>[#b+-](?:5|9|11|13))|(?P<figure>13|11|9|7|6|5)"
)
_ADDED = {
    "2": 14, "4": 17, "6": 9, "9": 14, "11": 17, "13": 21, "b9": 13, "#9": 15, "b11": 16, "#11": 18, "b13": 20, "#13": 22,
    "b2": 13, "#2": 15, "b4": 16, "#4": 18, "b6": 8, "#6": 10,
}  # fmt: skip
_ALTERED = {"b5": 6, "#5": 8, "b9": 13, "#9": 15, "b11": 16, "#11": 18, "b13": 20, "#13": 22}
_PLAIN = {"9": 14, "11": 17, "13": 21}
"""What an alteration stands in place of."""
_STACKED: dict[str, frozenset[int]] = {
    "7": frozenset(), "9": frozenset({14}), "11": frozenset({14, 17}), "13": frozenset({14, 21}),
}  # fmt: skip
"""What a figure puts over the seventh."""


@dataclass(slots=True)
class _Tones:
    """A chord's tones as they are read, in semitones over the root."""

    third: int | None = 4
    fifth: int = 7
    seventh: int | None = None
    more: set[int] = field(default_factory=set)
    is_major: bool = False
    is_diminished: bool = False

    def take_in(self, kind: str, word: str, *, is_first: bool) -> bool:
        """One word of the quality; whether it can stand there."""
        match kind:
            case "alt":
                self.fifth, self.more = 8, self.more | {13, 15}
                self.seventh = 10 if self.seventh is None else self.seventh
            case "half":
                self.third, self.fifth, self.seventh = 3, 6, 10
            case "dim":
                self.third, self.fifth, self.is_diminished = 3, 6, True
            case "aug":
                self.fifth = 8
            case "major":
                self.is_major = True
                self.seventh = 11 if word == "^" and self.seventh is None else self.seventh
            case "minor":
                self.third = 3
            case "sus":
                self.third = 2 if word.endswith("2") else 5
            case "add":
                self.more.add(_ADDED[word.removeprefix("add")])
            case "six":
                self.more |= {9, 14}
            case "alter":
                self._alter(word[0].replace("+", "#").replace("-", "b"), word[1:])
            case _:
                return self._figure(word, is_first=is_first)
        return True

    def _alter(self, sign: str, degree: str) -> None:
        if degree == "5":
            self.fifth = _ALTERED[sign + degree]
            return
        self.more = self.more - {_PLAIN[degree]} | {_ALTERED[sign + degree]}
        self.seventh = 10 if self.seventh is None else self.seventh

    def _figure(self, word: str, *, is_first: bool) -> bool:
        if word == "5":
            self.third = None
            return is_first
        if word == "6":
            self.more.add(9)
            return True
        if self.seventh is None:
            self.seventh = 9 if self.is_diminished else 11 if self.is_major else 10
        self.more |= _STACKED[word]
        return True

    @property
    def intervals(self) -> tuple[int, ...]:
        own = (0, self.third, self.fifth, self.seventh, *self.more)
        return tuple(sorted({tone for tone in own if tone is not None}))


@lru_cache(maxsize=1024)
def quality_of(text: str) -> tuple[str, tuple[int, ...]] | None:
    """Return a chord's quality, in any common spelling after the root, as its plain name and the semitones
    above the root; None if nobody writes it so.

    “Δ7”, “maj7”, “M7” and “ma7” are the same.
    """
    plain = text.translate(_SAME).replace("Maj", "maj").replace("Min", "min").replace("Sus", "sus")
    if plain.startswith("-"):
        plain = f"m{plain[1:]}"
    tones, seen, at = _Tones(), set[str](), 0
    while at < len(plain):
        token = _TOKEN.match(plain, at)
        if token is None:
            return None
        kind = next(k for k in _KINDS if token[k])
        if kind in seen - _MANY or not tones.take_in(kind, token[0], is_first=not at):
            return None
        seen.add(kind)
        at = token.end()
    known = next((name for name, own in QUALITIES.items() if own == tones.intervals), plain)
    return known, tones.intervals


def place_of(name: str) -> int:
    """Return a note name's place on the line of fifths, such as 6 for F♯. Raises KeyError for anything else."""
    return LETTER_PLACES[name[:1].upper()] + SIGNS[name[1:]]


def tone_places(intervals: Sequence[int]) -> tuple[int, ...]:
    """Return the tones of a chord, given in semitones above its root, as fifths from the root.

    Above a diminished triad, nine is a diminished seventh.
    """
    is_diminished = {3, 6, 9} <= set(intervals) and not {7, 10, 11} & set(intervals)
    return tuple(
        -9 if i % 12 == 9 and is_diminished else TONES[i if i in TONES else i % 12] for i in intervals
    )


@lru_cache(maxsize=1024)
def tones_of(name: str) -> dict[int, int]:
    """Return the names of a chord's tones on the line of fifths by pitch class, including the bass; empty for
    an unreadable name.

    Do not change the result.
    """
    match = NAME.match(name)
    quality = quality_of(match[2]) if match else None
    if match is None or quality is None:
        return {}
    root = place_of(match[1])
    places = [root + place for place in tone_places(quality[1])]
    if match[3]:
        places.append(place_of(match[3]))
    return {7 * place % 12: place for place in places}
