"""Which hand plays what."""

from dataclasses import replace

from ear.editing.edited import Edited, Selection, changed
from ear.errors import ValueOutOfRange
from ear.notes import Hand, Part


def split_hands(part: Part, selection: Selection, *, at_pitch: int) -> Edited:
    """From a pitch up the right hand, below it the left. Raises ValueOutOfRange for drums."""
    if not part.instrument.has_hands:
        raise ValueOutOfRange("drum_parts_not_written_for")
    return changed(
        part, selection, lambda n: replace(n, hand=Hand.RIGHT if n.pitch >= at_pitch else Hand.LEFT)
    )
