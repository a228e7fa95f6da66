"""Students by bars for one assignment: where a class has trouble."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from ear.notes import Part
from oido.assignments.models import Assignment
from oido.exercises.models import Exercise
from oido.exercises.pages import voices_of
from oido.marking.queries import handed_in_takes
from oido.takes.bar_states import BarState, bar_states
from oido.takes.judging import judged
from oido.takes.models import Take

WORST_SHOWN = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureRow:
    """`bars` is empty where what was measured cannot be read."""

    take: Take
    bars: tuple[BarState, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureBar:
    number: int
    troubled: int
    """Students who had trouble with it."""


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
        trouble_spots = sorted((b for b in self.bars if b.troubled), key=lambda b: (-b.troubled, b.number))
        return tuple(trouble_spots[:WORST_SHOWN])


def class_picture(assignment: Assignment, voice: str = "") -> ClassPicture:
    takes = list(handed_in_takes(assignment))
    part = _part_of(assignment.exercise, takes)
    voices = voices_of(part)
    chosen = voice if voice in voices else None
    rows = _rows(assignment.exercise, part, takes, chosen)
    return ClassPicture(
        rows=tuple(rows),
        bars=_troubled(rows),
        voices=tuple(voices),
        voice=chosen,
        handed_in=frozenset(take.student_id for take in takes),
        of_older_part=len(takes) - len(rows),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ExerciseTrouble:
    """Where an exercise has trouble, in all classes together."""

    bars: tuple[PictureBar, ...]
    takes: int
    """Handed in, of the part that is in force, and readable."""
    of_older_part: int

    @property
    def worst(self) -> tuple[PictureBar, ...]:
        """All bars that as many have trouble with as with any other."""
        most = max((bar.troubled for bar in self.bars), default=0)
        return tuple(bar for bar in self.bars if most and bar.troubled == most)

    def step(self, bar: PictureBar) -> int:
        """Return how strongly to tint it, 0 to 4; 0 if nobody has trouble."""
        return -(-4 * bar.troubled // self.takes) if self.takes else 0

    @property
    def tinted(self) -> list[tuple[PictureBar, int]]:
        return [(bar, self.step(bar)) for bar in self.bars]


def trouble_of(exercise: Exercise, assignments: Iterable[Assignment]) -> ExerciseTrouble:
    """Return the trouble spots over an exercise's assignments."""
    takes = list(handed_in_takes(*assignments))
    rows = _rows(exercise, _part_of(exercise, takes), takes, None)
    return ExerciseTrouble(
        bars=_troubled(rows), takes=sum(bool(row.bars) for row in rows), of_older_part=len(takes) - len(rows)
    )


def _part_of(exercise: Exercise, takes: Iterable[Take]) -> Part:
    """The part that is in force: read with a take of it, where there is one."""
    known = next((take.part for take in takes if take.part_id == exercise.part_id), None)
    return (known or exercise.part_in_force).read()


def _rows(exercise: Exercise, part: Part, takes: Iterable[Take], voice: str | None) -> list[PictureRow]:
    """A row for each take of the part that is in force."""
    of_now = [take for take in takes if take.part_id == exercise.part_id]
    return [PictureRow(take=take, bars=_bars(part, take, voice)) for take in of_now]


def _troubled(rows: Iterable[PictureRow]) -> tuple[PictureBar, ...]:
    rows = [row for row in rows if row.bars]
    troubled = Counter(b.number for row in rows for b in row.bars if b.is_troubled)
    return tuple(
        PictureBar(number=b.number, troubled=troubled[b.number]) for b in (rows[0].bars if rows else ())
    )


def _bars(part: Part, take: Take, voice: str | None) -> tuple[BarState, ...]:
    judgement = judged(take)
    if not judgement.is_readable:
        return ()
    return tuple(bar_states(part, judgement.facts, judgement.judgement, voice))
