"""What a variation has that the part it came from has not."""

from dataclasses import dataclass

from ear.editing.edited import Selection
from ear.notes import Part, place_of


@dataclass(frozen=True, slots=True, kw_only=True)
class ComparedParts:
    """New notes by index in the variation, and left-out ones by index in the part it came from."""

    new: Selection
    left_out: Selection


def compare(origin: Part, variation: Part) -> ComparedParts:
    """Return what differs between two parts.

    Notes are the same if onset and pitch are; length and velocity may differ.
    """
    before = set(map(place_of, origin.notes))
    after = set(map(place_of, variation.notes))
    return ComparedParts(
        new=frozenset(i for i, n in enumerate(variation.notes) if place_of(n) not in before),
        left_out=frozenset(i for i, n in enumerate(origin.notes) if place_of(n) not in after),
    )
