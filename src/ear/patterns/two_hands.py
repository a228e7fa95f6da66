"""Lines for both hands: in octaves, in contrary motion, a third, a sixth or a tenth apart."""

from collections.abc import Callable
from dataclasses import replace
from enum import StrEnum

from ear.notes import Hand, Part
from ear.patterns.lines import LineDirection, LineShape, scale
from ear.patterns.modes import Mode, Tonic


class TwoHands(StrEnum):
    """How the hands go with each other."""

    OCTAVES = "in octaves"
    CONTRARY = "in contrary motion"
    THIRDS = "a third apart"
    SIXTHS = "a sixth apart"
    TENTHS = "a tenth apart"


APART = {TwoHands.THIRDS: (3, 0), TwoHands.SIXTHS: (6, 0), TwoHands.TENTHS: (3, 1)}
"""The degree on which the right hand begins over the left one's first, and the octaves between them."""
OTHER_WAY = {
    LineDirection.UP: LineDirection.DOWN, LineDirection.DOWN: LineDirection.UP,
    LineDirection.BOTH: LineDirection.DOWN_FIRST, LineDirection.DOWN_FIRST: LineDirection.BOTH,
}  # fmt: skip


def together(right: Part, left: Part) -> Part:
    """Return two parts of the same bars as one."""
    return right.with_notes((*right.notes, *left.notes))


def in_two_hands(line: Callable[[LineShape], Part], shape: LineShape, *, hands: TwoHands) -> Part:
    """Return a line in octaves or in contrary motion; `line` makes it for one hand.

    The right hand lies in the octave of the shape, the left one below it. Raises ValueOutOfRange.
    """
    right = replace(shape, hand=Hand.RIGHT)
    below = 1 + (shape.octaves if hands is TwoHands.CONTRARY else 0)
    way = OTHER_WAY[shape.way] if hands is TwoHands.CONTRARY else shape.way
    left = replace(shape, hand=Hand.LEFT, octave=shape.octave - below, way=way)
    return together(line(right), line(left))


def scale_in_two_hands(tonic: Tonic, mode: Mode, shape: LineShape, *, hands: TwoHands) -> Part:
    """Return a scale for both hands, each with its fingers. Raises ValueOutOfRange."""
    if hands not in APART:
        return in_two_hands(lambda own: scale(tonic, mode, own), shape, hands=hands)
    degree, octaves = APART[hands]
    right = scale(tonic, mode, replace(shape, hand=Hand.RIGHT), from_degree=degree)
    left = scale(tonic, mode, replace(shape, hand=Hand.LEFT, octave=shape.octave - octaves))
    return together(right, left)
