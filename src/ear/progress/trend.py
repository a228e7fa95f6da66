"""Whether a figure has changed over a row of takes by more than the player's own spread makes it change.

The change is the Theil-Sen line's, from the first take to the last (Theil 1950, Sen 1968). Takes scatter
about that line by the player's own spread; what a line through so many takes would rise by chance follows
from it as for a least-squares line of evenly spaced points (Draper and Smith, "Applied Regression
Analysis", 1998, §1.4), with Student's t for so few of them. The spread is never taken to be less than
what each take's own figure can be off: few takes can lie on a line by luck.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ear.measuring.figures import carry_over, theil_sen

MIN_TAKES = 4
"""Below these a line says nothing."""
CERTAIN_Z = 1.96
"""Of a normal distribution: beyond it lies one in twenty."""
DAYS = ((5, 12), (1.0, 1.9))
"""How much less takes say at least, by their number: of a few, days cannot be told, and of twelve and more they are there."""
MEDIAN_LOSS = 1.07
"""How much larger a Theil-Sen slope's error is than that of least squares, for normal residuals."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Trend:
    """`change` is from the first take to the last; within `chance` either way it means nothing."""

    takes: int
    first: float
    last: float
    """Where the line begins and ends."""
    change: float
    chance: float
    spread: float
    """How takes scatter about the line: the player's own."""

    @property
    def is_change(self) -> bool:
        """Is the change greater than chance would make it?"""
        return abs(self.change) > self.chance


def trend(values: Sequence[float], errors: Sequence[float] = ()) -> Trend | None:
    """Return the trend of figures in order of time, each with its own standard error if it is known; None for
    too few.

    The line ends within the range of the figures.
    """
    n = len(values)
    if n < MIN_TAKES:
        return None
    y = np.array(values, dtype=np.float64)
    x = np.arange(n, dtype=np.float64)
    slope = theil_sen(x, y)
    start = float(np.median(y - slope * x))
    scatter = math.sqrt(float(np.sum((y - slope * x - start) ** 2)) / (n - 2))
    own = float(np.median(np.array(errors))) if len(errors) else 0.0
    spread = max(scatter, own)
    # Good and bad days last for several takes, and so many takes say less than if each were by itself.
    days = max(carry_over(y - slope * x), float(np.interp(n, *DAYS)))
    error = MEDIAN_LOSS * days * spread * (n - 1) / math.sqrt(n * (n * n - 1) / 12.0)
    # No line tells of more than was ever played: of 101 points of 100, say.
    first, last = np.clip([start, start + slope * (n - 1)], y.min(), y.max()).tolist()
    return Trend(
        takes=n,
        first=first,
        last=last,
        change=last - first,
        chance=student_t(n - 2) * error,
        spread=spread,
    )


def student_t(freedom: int, z: float = CERTAIN_Z) -> float:
    """Return Student's t, for `freedom` >= 2, beyond which as much lies as beyond z of a normal distribution.

    Source: Abramowitz and Stegun, "Handbook of Mathematical Functions", 26.7.5, to the third term.
    """
    return (
        z
        + (z**3 + z) / (4 * freedom)
        + (5 * z**5 + 16 * z**3 + 3 * z) / (96 * freedom**2)
        + (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / (384 * freedom**3)
    )
