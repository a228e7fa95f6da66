"""Fingers for major scales and five-finger positions, as piano methods have them in common.

For one octave the eighth note has the finger that ends it; in longer scales the pattern of seven
begins anew, and only the last note ends.
"""

from ear.notes import Hand

RIGHT = {
    0: "12312345", 7: "12312345", 2: "12312345", 9: "12312345", 4: "12312345", 11: "12312345",
    5: "12341234", 10: "41231234", 3: "31234123", 8: "34123123", 1: "23123412", 6: "23412312",
}  # fmt: skip
"""By pitch class of the tonic, going up."""
LEFT = {
    0: "54321321", 7: "54321321", 2: "54321321", 9: "54321321", 4: "54321321", 5: "54321321",
    11: "43214321", 10: "32143213", 3: "32143213", 8: "32143213", 1: "32143213", 6: "43213214",
}  # fmt: skip


def major_scale_fingers(pitch_class: int, *, octaves: int, hand: Hand) -> tuple[int, ...]:
    """Fingers going up: 7 x octaves + 1 of them."""
    eight = (RIGHT if hand is Hand.RIGHT else LEFT)[pitch_class]
    if hand is Hand.RIGHT:
        written = eight[:7] * octaves + eight[7]
    else:
        # The left hand's pattern ends with the thumb: what comes before it begins anew.
        written = eight + eight[1:] * (octaves - 1)
    return tuple(int(finger) for finger in written)


def five_finger(degree: int, *, hand: Hand) -> int:
    """The finger on the first to fifth note of a position, counted from 1 at the bottom."""
    return degree if hand is Hand.RIGHT else 6 - degree
