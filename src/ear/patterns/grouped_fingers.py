"""Fingers of scales and arpeggios that have no table of their own: a rule that gives the tables' fingers where there are any.

The keys of an octave are played in groups that end at a thumb (left hand, going up) or begin at one (right hand). Thumbs
stand on white keys; where the tonic is white, one stands there. All fingers are given going up.
"""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from ear.notes import Hand
from ear.notes.pitch import BLACK_KEYS

GROUPS = {7: (3, 4), 5: (3, 2), 4: (4,)}
"""Keys that lie under one position of the hand, by the number of keys to the octave."""
THIRDS_IN_GROUPS, THIRD = (3, 2, 2), 2
"""Thirds under one position, and how many fingers a third spans."""
SCALE_KEYS = 7
MINOR_THIRD, MAJOR_THIRD = 3, 4
CHROMATIC = {
    Hand.RIGHT: (2, 3, 1, 3, 1, 2, 3, 1, 3, 1, 3, 1),
    Hand.LEFT: (1, 3, 1, 3, 2, 1, 3, 1, 3, 1, 3, 2),
}
"""By pitch class: the third finger on black keys, and of two white neighbours the outer one has the second."""


class _Position(NamedTuple):
    """How a hand lies over an octave: the finger of each key, and how far the tonic is from its nearest thumb."""

    fingers: tuple[int, ...]
    black_thumbs: int
    from_thumb: int


def grouped_fingers(steps: Sequence[int], pitch_class: int, *, octaves: int, hand: Hand) -> tuple[int, ...]:
    """Return fingers from the bottom up, len(steps) x octaves + 1 of them.

    `steps` are four, five or seven keys in semitones over the tonic, from 0. Raises KeyError for another number.
    """
    inner = _inner(GROUPS[len(steps)], steps, pitch_class, hand)
    line = [*(inner * octaves), inner[0]]
    outward = _with_ends(line if hand is Hand.RIGHT else line[::-1], is_scale=len(steps) == SCALE_KEYS)
    return tuple(outward if hand is Hand.RIGHT else outward[::-1])


def fingers_of_thirds(
    steps: Sequence[int], pitch_class: int, *, octaves: int, hand: Hand
) -> tuple[tuple[int, int], ...]:
    """Return the fingers of a third on each key of a scale of seven and on the last tonic, the lower key's first."""
    upper = [step + 12 * (step < steps[THIRD]) for step in (*steps[THIRD:], *steps[:THIRD])]
    # The thumb is on the lower key in the right hand, on the upper one in the left.
    inner = _inner(THIRDS_IN_GROUPS, steps if hand is Hand.RIGHT else upper, pitch_class, hand)
    line = [*(inner * octaves), inner[0]]
    return tuple((f, f + THIRD) if hand is Hand.RIGHT else (f + THIRD, f) for f in line)


def _inner(groups: tuple[int, ...], steps: Sequence[int], pitch_class: int, hand: Hand) -> tuple[int, ...]:
    """The finger of each key of an octave, as it is played in the middle of a longer line."""
    is_black = [(pitch_class + step) % 12 in BLACK_KEYS for step in steps]
    positions = [_position(order, turn, is_black, hand) for order, turn in _ways(groups)]
    return min(positions, key=lambda p: (p.black_thumbs, p.from_thumb)).fingers


def _ways(groups: tuple[int, ...]) -> Iterator[tuple[tuple[int, ...], int]]:
    for order in dict.fromkeys((groups, groups[::-1])):
        for turn in range(sum(groups)):
            yield order, turn


def _position(groups: Sequence[int], turn: int, is_black: Sequence[bool], hand: Hand) -> _Position:
    """Groups laid over the keys outward from the hand's thumb, the first of them beginning `turn` keys from the tonic."""
    keys = len(is_black)
    outward = [finger for group in groups for finger in range(1, group + 1)]
    fingers = [0] * keys
    for k, finger in enumerate(outward):
        fingers[(turn + k if hand is Hand.RIGHT else -turn - k) % keys] = finger
    thumbs = [k for k, finger in enumerate(fingers) if finger == 1]
    away = min((k if hand is Hand.RIGHT else -k) % keys for k in thumbs)
    return _Position(tuple(fingers), sum(is_black[k] for k in thumbs), away)


def _with_ends(outward: list[int], *, is_scale: bool) -> list[int]:
    """A line away from the body: its last key has the finger beside the one before; what is no scale of seven keys begins
    with the second finger where a thumb follows."""
    if not is_scale and 1 in outward:
        first = outward.index(1)
        outward[:first] = range(2, 2 + first)
    if outward[-1] == 1:
        outward[-1] = outward[-2] + 1
    return outward


def triad_fingers(intervals: Sequence[int], pitch_class: int, *, hand: Hand) -> tuple[int, ...]:
    """Return the four fingers of a broken triad over one octave, from the bottom up."""
    third, fifth = sorted({interval % 12 for interval in intervals})[1:]
    is_root_black, is_third_black, is_fifth_black = (
        (pitch_class + step) % 12 in BLACK_KEYS for step in (0, third, fifth)
    )
    if not is_root_black or (is_third_black and is_fifth_black):
        if hand is Hand.RIGHT:
            return (1, 2, 3, 5)
        is_near = third <= MINOR_THIRD or (third == MAJOR_THIRD and not is_third_black)
        return (5, 4, 2, 1) if is_near else (5, 3, 2, 1)
    if hand is Hand.RIGHT:
        return (2, 3, 1, 2) if is_third_black else (2, 1, 2, 4)
    return (2, 1, 4, 2) if is_fifth_black else (3, 2, 1, 3)


def chromatic_fingers(pitch_class: int, *, octaves: int, hand: Hand) -> tuple[int, ...]:
    """Return fingers of a chromatic scale from the bottom up, 12 x octaves + 1 of them."""
    table = CHROMATIC[hand]
    line = [table[(pitch_class + k) % 12] for k in range(12 * octaves + 1)]
    # Nothing is passed under at the near end, so a white key there has the thumb.
    near = 0 if hand is Hand.RIGHT else -1
    if pitch_class not in BLACK_KEYS:
        line[near] = 1
    return tuple(line)
