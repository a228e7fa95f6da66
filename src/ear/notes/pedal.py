"""The sustain pedal as a part writes it: stretches in which it is held, and the places where the foot moves."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from ear.errors import ValueOutOfRange


@dataclass(frozen=True, slots=True, kw_only=True)
class PedalMark:
    """The pedal held from a tick up to another. Where one ends and the next begins, it is changed."""

    start_tick: int
    end_tick: int

    def __post_init__(self) -> None:
        if not 0 <= self.start_tick < self.end_tick:
            raise ValueOutOfRange("pedal_mark_empty")


class PedalMove(StrEnum):
    """How the foot moves."""

    DOWN = "down"
    CHANGE = "change"
    """Up and down again: the old sound ends, the new one is held."""
    UP = "up"


@dataclass(frozen=True, slots=True, kw_only=True)
class PedalPoint:
    """A place where the foot moves."""

    tick: int
    move: PedalMove


def check_pedal(marks: Sequence[PedalMark]) -> None:
    """Check pedal marks. Raises ValueOutOfRange if they are out of order or overlap."""
    if any(a.end_tick > b.start_tick for a, b in pairwise(marks)):
        raise ValueOutOfRange("pedal_marks_overlap")


def pedal_points(marks: Sequence[PedalMark]) -> tuple[PedalPoint, ...]:
    """Return all ticks where the foot moves, in order; empty without marks."""
    moves: list[tuple[int, PedalMove]] = []
    for k, mark in enumerate(marks):
        is_change = k > 0 and marks[k - 1].end_tick == mark.start_tick
        moves.append((mark.start_tick, PedalMove.CHANGE if is_change else PedalMove.DOWN))
        if k + 1 == len(marks) or marks[k + 1].start_tick != mark.end_tick:
            moves.append((mark.end_tick, PedalMove.UP))
    return tuple(PedalPoint(tick=tick, move=move) for tick, move in moves)
