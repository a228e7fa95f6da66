"""The player's own clock: when each moment of a take is by the count that he keeps himself."""

from dataclasses import dataclass

import numpy as np

from ear.matching.grid import Floats


@dataclass(frozen=True, eq=False, slots=True, kw_only=True)
class PlayerClock:
    """Take time as own time, straight between knots and on beyond them; both (n,), n >= 2, ascending, in quarters of
    the first tempo. On this clock who changes his tempo keeps one; where he waits it goes on."""

    take: Floats
    own: Floats
    is_click: bool = False
    """It is the click itself."""
    changes: int = 1
    """Stretches of a tempo that it was made from."""

    @classmethod
    def steady(cls, ratio: float) -> "PlayerClock":
        """Return a clock at one tempo, `ratio` times the click's."""
        return cls(take=np.array([0.0, 1.0]), own=np.array([0.0, ratio]), is_click=ratio == 1.0)

    def own_at(self, take: Floats) -> Floats:
        """Return the player's own quarters at quarters of the take, element by element."""
        return take if self.is_click else _straight(take, self.take, self.own)

    def take_at(self, own: Floats) -> Floats:
        """Return quarters of the take at the player's own quarters, element by element; NaN stays NaN."""
        return own if self.is_click else _straight(own, self.own, self.take)


CLICK = PlayerClock.steady(1.0)


def _straight(x: Floats, known: Floats, value: Floats) -> Floats:
    values = np.array(np.interp(x, known, value))
    before, behind = np.asarray(x < known[0]), np.asarray(x > known[-1])
    values[before] = value[0] + (x[before] - known[0]) * (value[1] - value[0]) / (known[1] - known[0])
    slope = (value[-1] - value[-2]) / (known[-1] - known[-2])
    values[behind] = value[-1] + (x[behind] - known[-1]) * slope
    result: Floats = values
    return result
