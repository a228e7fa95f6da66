"""What a variation has that the part it came from has not."""

from dataclasses import dataclass

from ear.editing.edited import Selection
from ear.notes import Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Variation:
    """New notes by index in the variation, and left-out ones by index in the part it came from."""

    new: Selection
    left_out: Selection


def compare(origin: Part, variation: Part) -> Variation:
    """Notes are the same where onset and pitch are; how long and how strong may differ."""
    before = {(n.onset_tick, n.pitch) for n in origin.notes}
    after = {(n.onset_tick, n.pitch) for n in variation.notes}
    return Variation(
        new=frozenset(i for i, n in enumerate(variation.notes) if (n.onset_tick, n.pitch) not in before),
        left_out=frozenset(i for i, n in enumerate(origin.notes) if (n.onset_tick, n.pitch) not in after),
    )
