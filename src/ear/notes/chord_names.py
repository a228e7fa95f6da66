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
NO_CHORDS = frozenset({"n.c.", "nc", "n.c", "no chord"})
_SIGNS = str.maketrans(
    {"♭": "b", "♯": "#", "−": "-", "–": "-", "(": None, ")": None, ",": None, "Δ": "^", "∆": "^"}
)
_TOKEN = re.compile(
    r"(?P<half>ø|hdim)|(?P<dim>dim|°|o)|(?P<aug>aug|\+(?!\d))|(?P<major>major|maj|ma(?!dd)|j|M|\^)|(?P<minor>minor|min|mi|m|-(?!\d))"
    r"|(?P<sus>sus[24]?)|(?P<add>add(?P<added>[#b]?(?:2|4|6|9|11|13)))|(?P<six>6/9|69)"
    r"|(?P<alter>[#b+-](?P<altered>5|9|11|13))|(?P<figure>13|11|9|7|6|5)"
)
_ALTERED = {"b5": 6, "#5": 8, "b9": 13, "#9": 15, "b11": 16, "#11": 18, "b13": 20, "#13": 22}
_ADDED = {
    "2": 14,
    "4": 17,
    "6": 9,
    "9": 14,
    "11": 17,
    "13": 21,
    "b9": 13,
    "#9": 15,
    "#11": 18,
    "b13": 20,
    "#4": 18,
    "b6": 8,
}


@lru_cache(maxsize=1024)
def quality_of(text: str) -> tuple[str, tuple[int, ...]] | None:
    """A quality as it is written after a root, in whatever common writing: its plain name, and semitones over the root;
    None for what nobody writes. “Δ7”, “maj7”, “M7” and “ma7” are one."""
    plain = text.translate(_SIGNS).replace("Maj", "maj").replace("Min", "min").replace("Sus", "sus")
    third: int | None = 4
    fifth, seventh, more = 7, None, set[int]()
    is_major = is_diminished = False
    at, seen = 0, set[str]()
    if plain.startswith("-"):
        plain = f"m{plain[1:]}"
    while at < len(plain):
        token = _TOKEN.match(plain, at)
        if token is None:
            return None
        value = token[0]
        kind = next(
            k
            for k in ("half", "dim", "aug", "major", "minor", "sus", "add", "six", "alter", "figure")
            if token[k]
        )
        if kind in seen and kind not in ("add", "alter"):
            return None
        match kind:
            case "half":
                third, fifth, seventh = 3, 6, 10
            case "dim":
                third, fifth, is_diminished = 3, 6, True
            case "aug":
                fifth = 8
            case "major":
                is_major = True
                if value == "^" and seventh is None:
                    seventh = 11
            case "minor":
                third = 3
            case "sus":
                third = 2 if value.endswith("2") else 5
            case "add":
                more.add(_ADDED[token["added"]])
            case "six":
                more |= {9, 14}
            case "alter":
                sign = value[0].replace("+", "#").replace("-", "b")
                step = _ALTERED[sign + token["altered"]]
                if token["altered"] == "5":
                    fifth = step
                else:
                    more = {m for m in more if m != {"9": 14, "11": 17, "13": 21}[token["altered"]]} | {step}
                    seventh = seventh if seventh is not None else 10
            case "figure" if value == "5" and not seen:
                third = None
            case "figure" if value == "5":
                return None
            case "figure" if value == "6":
                more.add(9)
            case "figure":
                if seventh is None:
                    seventh = 9 if is_diminished else 11 if is_major else 10
                more |= {14} if value != "7" else set()
                more |= {17} if value in ("11",) else set()
                more |= {21} if value == "13" else set()
        at = token.end()
        seen.add(kind)
    tones = (
        {0, fifth, *more}
        | ({third} if third is not None else set())
        | ({seventh} if seventh is not None else set())
    )
    intervals = tuple(sorted(tones))
    known = next((name for name, own in QUALITIES.items() if own == intervals), None)
    return (plain if known is None else known), intervals


LETTER_PLACES = dict(zip("FCGDAEB", range(-1, 6), strict=True)) | {"H": 5}
"""H is the German name of B."""
SIGNS = {
    "#": 7, "♯": 7, "b": -7, "♭": -7, "": 0, "##": 14, "♯♯": 14, "x": 14, "bb": -14, "♭♭": -14,
}  # fmt: skip


TONES = {
    0: 0,
    1: -5,
    2: 2,
    3: -3,
    4: 4,
    5: -1,
    6: -6,
    7: 1,
    8: 8,
    9: 3,
    10: -2,
    11: 5,
    13: -5,
    14: 2,
    15: 9,
    16: 4,
    17: -1,
    18: 6,
    20: -4,
    21: 3,
    22: 10,
}
"""Fifths from the root to a tone so many semitones above it: thirds, fifths, sevenths by their names."""


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
    quality = quality_of(found[2]) if found else None
    if found is None or quality is None:
        return {}
    root = place_of(found[1])
    places = [root + place for place in tone_places(quality[1])]
    if found[3]:
        places.append(place_of(found[3]))
    return {7 * place % 12: place for place in places}
