"""Stickings: by which hand a drummer strikes, written as R and L at the notes."""

from dataclasses import replace
from enum import StrEnum

from ear.editing.edited import Edited, Selection, chosen
from ear.errors import ValueOutOfRange
from ear.notes import STANDARD_KIT, Part

HAT_FOOT = 44
"""The hat closed by its pedal."""


class Sticking(StrEnum):
    """Patterns by the names that drummers give them."""

    SINGLE = "single strokes"
    DOUBLE = "double strokes"
    PARADIDDLE = "paradiddle"
    DOUBLE_PARADIDDLE = "double paradiddle"
    PARADIDDLE_DIDDLE = "paradiddle-diddle"


PATTERNS = {
    Sticking.SINGLE: "RL", Sticking.DOUBLE: "RRLL", Sticking.PARADIDDLE: "RLRRLRLL",
    Sticking.DOUBLE_PARADIDDLE: "RLRLRRLRLRLL", Sticking.PARADIDDLE_DIDDLE: "RLRRLL",
}  # fmt: skip
OTHER_HAND = str.maketrans("RL", "LR")


def stick(part: Part, selection: Selection, *, pattern: Sticking, left_first: bool = False) -> Edited:
    """Write a pattern over the strokes of the hands, in order; what is struck together is one place of the pattern, and
    of two hands at once the second has the other one. Feet have none. Raises ValueOutOfRange for an instrument without
    lanes."""
    if not part.instrument.has_lanes:
        raise ValueOutOfRange("sticks_strike_drums")
    hands = PATTERNS[pattern].translate(OTHER_HAND) if left_first else PATTERNS[pattern]
    words: dict[int, str] = {}
    place, before = -1, None
    for i in sorted(chosen(part, selection)):
        note = part.notes[i]
        if note.pitch == HAT_FOOT or STANDARD_KIT.lane(note.pitch).is_foot:
            continue
        is_together = note.onset_tick == before
        place, before = place + (not is_together), note.onset_tick
        hand = hands[place % len(hands)]
        words[i] = hand.translate(OTHER_HAND) if is_together else hand
    notes = (replace(n, label=words.get(i, n.label)) for i, n in enumerate(part.notes))
    return Edited(part=replace(part, notes=tuple(notes)), selected=selection)
