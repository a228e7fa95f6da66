"""Stickings: by which hand a drummer strikes, written as R and L at the notes."""

from dataclasses import replace
from enum import StrEnum
from itertools import groupby

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
    """Write a pattern over the strokes of the hands, in order. Feet have none.

    What is struck together is one place of the pattern and has both hands: the leading one on the cymbal, or else on the
    higher drum, every time, since hands do not change places between such strokes. Raises ValueOutOfRange for an
    instrument without lanes.
    """
    if not part.instrument.has_lanes:
        raise ValueOutOfRange("stickings_not_for_keyboard")
    hands = PATTERNS[pattern].translate(OTHER_HAND) if left_first else PATTERNS[pattern]
    lead = "L" if left_first else "R"
    struck = [
        i
        for i in sorted(chosen(part, selection))
        if part.notes[i].pitch != HAT_FOOT and not STANDARD_KIT.lane(part.notes[i].pitch).is_foot
    ]
    words: dict[int, str] = {}
    moments = [list(together) for _, together in groupby(struck, key=lambda i: part.notes[i].onset_tick)]
    for place, moment in enumerate(moments):
        if len(moment) == 1:
            words[moment[0]] = hands[place % len(hands)]
            continue
        leading = max(moment, key=lambda i: STANDARD_KIT.lane(part.notes[i].pitch).staff_step)
        words |= {i: lead if i == leading else lead.translate(OTHER_HAND) for i in moment}
    notes = (replace(n, label=words.get(i, n.label)) for i, n in enumerate(part.notes))
    return Edited(part=replace(part, notes=tuple(notes)), selected=selection)
