"""Students by bars for one assignment: where a class trips."""

from collections import Counter
from dataclasses import dataclass

from oido.assignments.models import Assignment
from oido.marking.queries import handed_in_takes
from oido.takes.bars import BarState, bar_states
from oido.takes.models import Take

TRIPPED_FROM = 0.3
"""Share of a bar gone wrong from which a student has tripped over it."""
WORST_SHOWN = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureRow:
    take: Take
    bars: tuple[BarState, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassPicture:
    rows: tuple[PictureRow, ...]
    bar_numbers: tuple[int, ...]
    worst: tuple[tuple[int, int], ...]
    """(bar, students who tripped), the worst first."""


def class_picture(assignment: Assignment) -> ClassPicture:
    part = assignment.exercise.part.read()
    rows = [
        PictureRow(take=take, bars=tuple(bar_states(part, take.measurement.result)))
        for take in handed_in_takes(assignment)
        if take.part_id == assignment.exercise.part_id
    ]
    tripped = Counter(b.number for row in rows for b in row.bars if b.fault >= TRIPPED_FROM)
    return ClassPicture(
        rows=tuple(rows),
        bar_numbers=tuple(b.number for b in rows[0].bars) if rows else (),
        worst=tuple(sorted(tripped.items(), key=lambda item: (-item[1], item[0]))[:WORST_SHOWN]),
    )
