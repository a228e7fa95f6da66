"""Students by bars for one assignment: where a class trips."""

from collections import Counter
from dataclasses import dataclass

from oido.assignments.models import Assignment
from oido.exercises.pages import voices_of
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
class PictureBar:
    number: int
    tripped: int
    """Students who tripped over it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassPicture:
    rows: tuple[PictureRow, ...]
    bars: tuple[PictureBar, ...]
    voices: tuple[str, ...]
    """Hands or lanes that can be looked at by themselves."""
    voice: str | None
    handed_in: frozenset[int]
    """Students, by their keys, who have handed in a take, of whatever part."""
    of_older_part: int
    """Takes that are left out, since the part has been changed since."""

    @property
    def worst(self) -> tuple[PictureBar, ...]:
        """The bars that trip most, the worst first."""
        tripping = sorted((b for b in self.bars if b.tripped), key=lambda b: (-b.tripped, b.number))
        return tuple(tripping[:WORST_SHOWN])


def class_picture(assignment: Assignment, voice: str = "") -> ClassPicture:
    part = assignment.exercise.part.read()
    voices = voices_of(part)
    chosen = voice if voice in voices else None
    takes = list(handed_in_takes(assignment))
    rows = [
        PictureRow(take=take, bars=tuple(bar_states(part, take.measurement.result, chosen)))
        for take in takes
        if take.part_id == assignment.exercise.part_id
    ]
    tripped = Counter(b.number for row in rows for b in row.bars if b.fault >= TRIPPED_FROM)
    return ClassPicture(
        rows=tuple(rows),
        bars=tuple(PictureBar(number=b.number, tripped=tripped[b.number]) for b in rows[0].bars)
        if rows
        else (),
        voices=tuple(voices),
        voice=chosen,
        handed_in=frozenset(take.student_id for take in takes),
        of_older_part=len(takes) - len(rows),
    )
