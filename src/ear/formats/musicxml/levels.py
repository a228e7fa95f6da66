"""How loud a score is to be played, place by place: signs hold until the next, hairpins lead from one to another."""

from bisect import bisect_right
from dataclasses import dataclass, field
from functools import cached_property

from ear.units import MAX_VELOCITY, MIN_VELOCITY, TICKS_PER_QUARTER

DEFAULT_VELOCITY = 80
STEP = 16
"""From one sign to the next: a hairpin that leads to no sign leads so far."""
SIGN_NEAR = TICKS_PER_QUARTER
"""Ticks behind a hairpin's end within which a sign is where it leads."""


@dataclass(kw_only=True)
class Levels:
    """Gathered while a part is read; asked when all of it is known."""

    signs: dict[int, int] = field(default_factory=dict)
    hairpins: list[tuple[int, int, bool]] = field(default_factory=list)
    """(start, end, is it a crescendo), in ticks."""
    _open: dict[str, tuple[int, bool]] = field(default_factory=dict)

    def wedge(self, kind: str | None, number: str, tick: int) -> None:
        """Gather one end of a hairpin."""
        if kind in ("crescendo", "diminuendo"):
            self._open[number] = (tick, kind == "crescendo")
        elif kind == "stop" and number in self._open:
            start, is_rising = self._open.pop(number)
            if tick > start:
                self.hairpins.append((start, tick, is_rising))

    @cached_property
    def _course(self) -> tuple[list[int], list[tuple[int, int, int, int]]]:
        """Stretches in order: their starts, and (start, end, velocity there, velocity at the end)."""
        moves = sorted(self.hairpins)
        signs = sorted(self.signs.items())
        places = [tick for tick, _ in signs]
        levels: list[tuple[int, int, int, int]] = []
        level, seen_until = DEFAULT_VELOCITY, 0
        for start, end, is_rising in moves:
            for tick, velocity in signs[seen_until : bisect_right(places, start)]:
                levels.append((tick, tick, velocity, velocity))
                level = velocity
            seen_until = max(seen_until, bisect_right(places, start))
            after = next(
                (velocity for tick, velocity in signs[seen_until:] if end <= tick <= end + SIGN_NEAR), None
            )
            leads_there = after is not None and (after > level) is is_rising
            step = STEP if is_rising else -STEP
            goal = after if after is not None and leads_there else level + step
            goal = max(MIN_VELOCITY, min(MAX_VELOCITY, goal))
            levels.append((start, end, level, goal))
            level = goal
        levels += [(tick, tick, velocity, velocity) for tick, velocity in signs[seen_until:]]
        levels.sort()
        return [start for start, *_ in levels], levels

    def at(self, tick: int) -> int:
        """Return the velocity, 1 to 127, at a tick."""
        starts, stretches = self._course
        k = bisect_right(starts, tick) - 1
        if k < 0:
            return DEFAULT_VELOCITY
        start, end, first, last = stretches[k]
        if tick >= end:
            return last
        return round(first + (last - first) * (tick - start) / (end - start))
