"""How far the sustain pedal and the wheels of a keyboard were used in a stretch of a take."""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from ear.notes.take import Take, TakeNote

MIN_POSITION = 0.01
"""Of a wheel's way: what is less is the play of its spring."""

Moves = Sequence[tuple[float, float]]
"""(moment, position) in order; the position is kept until the next moment."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Controls:
    """The use of pedal and wheels in a stretch: how far each wheel went from rest, 0 to 1."""

    is_pedal_down: bool = False
    bend_up: float = 0.0
    bend_down: float = 0.0
    modulation: float = 0.0

    def __bool__(self) -> bool:
        return self.is_pedal_down or any((self.bend_up, self.bend_down, self.modulation))


@dataclass(frozen=True, slots=True, kw_only=True)
class ControlLines:
    """Pedal and wheels over all of a take, by moments of any one scale: seconds or ticks."""

    pedal: tuple[tuple[float, float], ...] = ()
    """Stretches in which the pedal was down."""
    bend: tuple[tuple[float, float], ...] = ()
    modulation: tuple[tuple[float, float], ...] = ()

    def between(self, start: float, end: float) -> Controls:
        """Return the use from `start` up to `end`."""
        bend_down, bend_up = reach(self.bend, start, end)
        return Controls(
            is_pedal_down=any(down < end and up > start for down, up in self.pedal),
            bend_up=bend_up,
            bend_down=bend_down,
            modulation=reach(self.modulation, start, end)[1],
        )

    def during(self, note: TakeNote) -> Controls:
        """Return the use while a note's key was down; for lines in seconds."""
        return self.between(note.onset_s, note.onset_s + note.length_s)


UNUSED = ControlLines()


def reach(moves: Moves, start: float, end: float) -> tuple[float, float]:
    """Return how far below and above rest a wheel was from `start` up to `end`, each 0 to 1."""
    begun = bisect_right(moves, start, key=lambda move: move[0])
    ended = max(begun, bisect_left(moves, end, key=lambda move: move[0]))
    positions = [position for _, position in moves[max(0, begun - 1) : ended]]
    below, above = -min(positions, default=0.0), max(positions, default=0.0)
    return (below if below >= MIN_POSITION else 0.0, above if above >= MIN_POSITION else 0.0)


def control_lines(take: Take) -> ControlLines:
    """Return the take's pedal and wheels, in seconds from bar 1."""
    return ControlLines(
        pedal=tuple((span.start_s, span.end_s) for span in take.pedal),
        bend=tuple((move.time_s, move.position) for move in take.bend),
        modulation=tuple((move.time_s, move.position) for move in take.modulation),
    )
