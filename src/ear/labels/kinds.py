"""The kinds of labels, each switched by itself."""

from enum import StrEnum


class LabelKind(StrEnum):
    """In the order in which they stand at a note."""

    FINGERS = "fingers"
    NAMES = "names"
    KEYS = "keys"
    WORDS = "words"
    COUNT = "count"
    MOVEMENTS = "movements"
    CHORDS = "chords"


AT_NOTES = (LabelKind.FINGERS, LabelKind.NAMES, LabelKind.KEYS, LabelKind.WORDS)
"""These stand at each note; the others at each moment, over or under the staves."""
