"""Which key of a computer keyboard plays which pitch, by the place of the key and not its letter.

Keys are named as the W3C's UI Events KeyboardEvent code Values name places: “KeyA” is the key right
of Caps Lock, whatever is printed on it.
"""

from collections import Counter
from dataclasses import dataclass

import numpy as np

from ear.notes import STANDARD_KIT, Hand, KitMap, Part
from ear.units import MAX_PITCH, MIN_PITCH

RAISED_ROW = tuple(f"Key{c}" for c in "QWERTYUIOP")
HOME_ROW = (*(f"Key{c}" for c in "ASDFGHJKL"), "Semicolon")
LOWERED_ROW = (*(f"Key{c}" for c in "ZXCVBNM"), "Comma", "Period", "Slash")
ROWS = ((HOME_ROW, 0), (RAISED_ROW, 1), (LOWERED_ROW, -1))
PAD_KEYS = {
    "kick": "KeyF", "snare": "KeyJ", "hat": "KeyK", "open hat": "KeyL", "ride": "KeyD", "crash": "KeyS", "side stick": "KeyH",
    "clap": "KeyG", "high tom": "KeyU", "mid tom": "KeyI", "floor tom": "KeyR", "cowbell": "KeyE",
}  # fmt: skip
"""Each lane has its key, whatever a part plays: what was learned stays. Kick and snare lie under the two index fingers."""
SPARE_PAD_KEYS = ("KeyO", "KeyW", "KeyP", "KeyA", "KeyY", "KeyT")
"""For pads that are no lane of the kit, in the order of their numbers."""
_LEFT_TO_RIGHT = {
    "KeyF": "KeyJ", "KeyD": "KeyK", "KeyS": "KeyL", "KeyG": "KeyH", "KeyR": "KeyU", "KeyE": "KeyI", "KeyW": "KeyO",
    "KeyA": "KeyP", "KeyT": "KeyY",
}  # fmt: skip
MIRRORED = {**_LEFT_TO_RIGHT, **{right: left for left, right in _LEFT_TO_RIGHT.items()}}
"""For the other hand."""
SIGNS = {"Semicolon": ";", "Comma": ",", "Period": ".", "Slash": "/"}
HALVES = {
    Hand.LEFT: (LOWERED_ROW[:5], HOME_ROW[:5], RAISED_ROW[:5]), Hand.RIGHT: (LOWERED_ROW[5:], HOME_ROW[5:], RAISED_ROW[5:]),
}  # fmt: skip
"""Of the rows, from the lowest note up, what lies under each hand."""
MAJOR = (0, 2, 4, 5, 7, 9, 11)


def keyboard_layout(home: int, *, fifths: int) -> dict[str, int]:
    """Return the pitch of each key place: the home row is the scale from the home note, the row above it is a
    semitone higher, the row below a semitone lower.
    """
    steps = [p for p in _scale(fifths) if p >= home][: len(HOME_ROW)]
    layout: dict[str, int] = {}
    for row, shift in ROWS:
        layout |= {
            row[k]: pitch + shift for k, pitch in enumerate(steps) if MIN_PITCH <= pitch + shift <= MAX_PITCH
        }
    return layout


def pad_layout(part: Part, *, left_handed: bool = False, kit: KitMap = STANDARD_KIT) -> dict[str, int]:
    """Return the percussion number of each key place, the same for every part: one key for each lane.

    Pads of the part without a lane take the keys that are left. For left-handed players the hands are
    exchanged.
    """
    layout = {PAD_KEYS[lane.name]: lane.pitches[0] for lane in kit.lanes if lane.name in PAD_KEYS}
    known = set(layout.values())
    others = sorted({kit.fold(n.pitch) for n in part.notes} - known)
    layout |= dict(zip(SPARE_PAD_KEYS, others, strict=False))
    return {MIRRORED[code]: pitch for code, pitch in layout.items()} if left_handed else layout


def layout_of(part: Part, *, left_handed: bool = False) -> dict[str, int]:
    """Return the layout for a part, from its lowest note or from its lanes."""
    if part.instrument.has_lanes:
        return pad_layout(part, left_handed=left_handed)
    home = min((n.pitch for n in part.notes), default=60)
    return keyboard_layout(home, fifths=part.fifths)


@dataclass(frozen=True, slots=True, kw_only=True)
class TypingRows:
    """What a page needs to move the home note: the n-th key of a row plays the n-th scale pitch from home,
    so many semitones off."""

    rows: tuple[tuple[tuple[str, ...], int], ...]
    scale: tuple[int, ...]
    home: int


def typing_rows(part: Part) -> TypingRows | None:
    """Return the rows of typing keys for a keyboard part; None for drums, whose keys are pads."""
    if part.instrument.has_lanes:
        return None
    lowest = min((n.pitch for n in part.notes), default=60)
    scale = _scale(part.fifths)
    return TypingRows(rows=ROWS, scale=scale, home=next(p for p in scale if p >= min(lowest, scale[-1])))


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyReach:
    """How many of a part's notes the keys of a computer reach at once: as they lie first, from the best home note, and with
    a layout of the part's own for two hands."""

    notes: int
    as_they_lie: int
    from_best: int
    best: int
    """That home note."""
    by_two_hands: int


def reach(part: Part) -> KeyReach | None:
    """Return how much of a part the typing keys reach; None for drums, where every lane has a key."""
    rows = typing_rows(part)
    if rows is None:
        return None
    pitches = [n.pitch for n in part.notes]

    def reached(layout: dict[str, int]) -> int:
        keys = set(layout.values())
        return sum(pitch in keys for pitch in pitches)

    homes = [home for home in rows.scale if home + len(HOME_ROW) <= rows.scale[-1]]
    by_home = {home: reached(keyboard_layout(home, fifths=part.fifths)) for home in homes}
    best = max(homes, key=lambda home: (by_home[home], home == rows.home, -abs(home - rows.home)))
    return KeyReach(
        notes=len(pitches),
        as_they_lie=reached(layout_of(part)),
        from_best=by_home[best],
        best=best,
        by_two_hands=reached(two_hand_layout(part)),
    )


def two_hand_layout(part: Part) -> dict[str, int]:
    """Return key places for the pitches of a keyboard part and no others.

    Left-hand pitches are under the left hand, right-hand pitches under the right, rising row by row from the
    bottom and from the left. A hand with more pitches than keys takes the ones played most. A part without
    hands is divided in its middle.
    """
    count = Counter((_hand_of(part, n.pitch, n.hand), n.pitch) for n in part.notes)
    layout: dict[str, int] = {}
    for hand, rows in HALVES.items():
        keys = [key for row in rows for key in row]
        own = sorted((p for h, p in count if h is hand), key=lambda p: -count[hand, p])[: len(keys)]
        layout |= dict(zip(keys, sorted(own), strict=False))
    return layout


def _hand_of(part: Part, pitch: int, hand: Hand | None) -> Hand:
    if hand is not None:
        return hand
    return Hand.RIGHT if pitch >= int(np.median(part.pitches)) else Hand.LEFT


def _scale(fifths: int) -> tuple[int, ...]:
    tonic = fifths * 7 % 12
    steps = {(step + tonic) % 12 for step in MAJOR}
    return tuple(p for p in range(MIN_PITCH, MAX_PITCH + 1) if p % 12 in steps)


def key_of_pitch(part: Part, *, left_handed: bool = False) -> dict[int, str]:
    """Return the key place that plays each pitch; the home row is preferred."""
    key_of: dict[int, str] = {}
    for code, pitch in layout_of(part, left_handed=left_handed).items():
        key_of.setdefault(pitch, code)
    return key_of


def plain_letter(code: str) -> str:
    """Return the letter on the key if nothing is known of the computer's layout."""
    return SIGNS.get(code, code.removeprefix("Key"))
