"""A pulse that bends evenly: when each place of the music comes, as a parabola."""

from dataclasses import dataclass

import numpy as np

from ear.notes.values import Floats

MIN_BEND = 0.04
"""Change of the tempo, as a share of it, below which nobody hears one."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bend:
    """When each place of the music comes, as a parabola: `curve` has its coefficients, the highest power first. Beyond
    `first` and `last`, the places between which it was found, the tempo stays as it is there."""

    curve: tuple[float, float, float]
    first: float
    last: float
    ends: tuple[float, float]
    """Places for each unit of time at the first and at the last place."""

    def places(self, at: Floats) -> Floats:
        """Return the place in the music at each time, in quarters.

        It works element by element and rises with the time.
        """
        slow, rate, start = self.curve
        inside = np.clip(at, np.polyval(self.curve, self.first), np.polyval(self.curve, self.last))
        root = np.sqrt(np.maximum(rate * rate - 4 * slow * (start - inside), 0.0))
        place = 2 * (inside - start) / (rate + root)
        beyond = (at - inside) * np.where(at < inside, self.ends[0], self.ends[1])
        quarters: Floats = place + beyond
        return quarters


def bent(curve: tuple[float, float, float], first: float, last: float) -> Bend | None:
    """Return a bend through these points; None if the music would stand still or go back on the way."""
    slopes = [2 * curve[0] * place + curve[1] for place in (first, last)]
    if min(slopes) <= 0:
        return None
    return Bend(curve=curve, first=first, last=last, ends=(1.0 / slopes[0], 1.0 / slopes[1]))
