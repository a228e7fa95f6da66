"""The kinds of labels, each switched by itself."""

from enum import StrEnum

from ear.notes import Instrument


class LabelKind(StrEnum):
    """In the order in which they stand at a note."""

    FINGERS = "fingers"
    NAMES = "names"
    KEYS = "keys"
    WORDS = "words"
    COUNT = "count"
    MOVES = "movements"
    CHORDS = "chords"
    ORNAMENTS = "ornaments"
    """Part of the music: no switch hides them."""


OF_KEYS = frozenset({LabelKind.FINGERS, LabelKind.CHORDS})
"""These say something of instruments with hands and keys only."""


def label_kinds(instrument: Instrument) -> tuple[LabelKind, ...]:
    """Return the kinds of labels that an instrument's notes can have, in order."""
    return tuple(
        kind
        for kind in LabelKind
        if kind is not LabelKind.ORNAMENTS and (instrument.has_key or kind not in OF_KEYS)
    )
