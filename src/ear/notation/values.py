"""Note values: a base, dots, and the tuplet that they stand in."""

from dataclasses import dataclass
from fractions import Fraction
from typing import NamedTuple

from ear.units import TICKS_PER_QUARTER

WHOLE = 4 * TICKS_PER_QUARTER
BASES = (1, 2, 4, 8, 16, 32, 64)
MAX_DOTS = 2
FINEST = WHOLE // BASES[-1]
"""A sixty-fourth, in ticks."""


class Ratio(NamedTuple):
    """So many notes of a tuplet in the time of so many plain ones: 3 in the time of 2."""

    notes: int
    normal: int


TRIPLET, SEXTUPLET = Ratio(3, 2), Ratio(6, 4)
QUINTUPLET, SEPTUPLET = Ratio(5, 4), Ratio(7, 4)
QUINTUPLET_OF_SIX, SEPTUPLET_OF_SIX = Ratio(5, 6), Ratio(7, 6)
"""Over a dotted beat: five or seven semiquavers in the time of six."""
RATIOS = (TRIPLET, SEXTUPLET, QUINTUPLET, SEPTUPLET, QUINTUPLET_OF_SIX, SEPTUPLET_OF_SIX)


@dataclass(frozen=True, slots=True, kw_only=True)
class Value:
    """A note value: 4 for a quarter, with dots, and the ratio of the tuplet that it stands in."""

    base: int
    dots: int = 0
    ratio: Ratio | None = None

    @property
    def written_ticks(self) -> Fraction:
        """The length that it would have outside its tuplet, in ticks."""
        return Fraction(WHOLE, self.base) * (2 - Fraction(1, 1 << self.dots))

    @property
    def ticks(self) -> Fraction:
        """The length in ticks; a whole number but in septuplets and for the finest values with dots."""
        written = self.written_ticks
        return written if self.ratio is None else written * self.ratio.normal / self.ratio.notes


def _by_ticks(ratio: Ratio | None = None) -> dict[Fraction, Value]:
    values: dict[Fraction, Value] = {}
    for dots in range(MAX_DOTS + 1):
        for base in BASES:
            value = Value(base=base, dots=dots, ratio=ratio)
            # No dot stands for less than a sixty-fourth.
            if value.written_ticks % FINEST == 0:
                values.setdefault(value.ticks, value)
    return values


PLAIN_VALUES = _by_ticks()
"""Values outside tuplets, by their length in ticks."""
TRIPLET_VALUES = _by_ticks(TRIPLET)
