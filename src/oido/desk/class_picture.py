"""Students by bars for one assignment: where a class has trouble."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
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
class PictureBarState(BarState):
    """How a student played a bar: over takes that are handed in together, the mean of what was lost, and the state of `take`,
    in which most was lost."""

    take: Take


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureRow:
    """One student. `take` is the newest that was handed in; `bars` is empty where what was measured cannot be read."""

    take: Take
    bars: tuple[PictureBarState, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureBar:
    number: int
    troubled: int
    """Students who had trouble with it; over an exercise in all classes, takes."""


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
    of_now = _of_part_in_force(assignment.exercise, takes)
    rows = _rows_of_students(part, of_now, chosen)
    return ClassPicture(
        rows=tuple(rows),
        bars=_troubled([row.bars for row in rows]),
        voices=tuple(voices),
        voice=chosen,
        handed_in=frozenset(take.student_id for take in takes),
        of_older_part=len(takes) - len(of_now),
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
    part, of_now = _part_of(exercise, takes), _of_part_in_force(exercise, takes)
    bars = [_bars(part, take, None) for take in of_now]
    return ExerciseTrouble(
        bars=_troubled(bars), takes=sum(map(bool, bars)), of_older_part=len(takes) - len(of_now)
    )


def _part_of(exercise: Exercise, takes: Iterable[Take]) -> Part:
    """The part that is in force: read with a take of it, where there is one."""
    known = next((take.part for take in takes if take.part_id == exercise.part_id), None)
    return (known or exercise.part_in_force).read()


def _of_part_in_force(exercise: Exercise, takes: Iterable[Take]) -> list[Take]:
    return [take for take in takes if take.part_id == exercise.part_id]


def _rows_of_students(part: Part, takes: Iterable[Take], voice: str | None) -> list[PictureRow]:
    """Return a row for each student, in the order of their first takes."""
    takes_of: dict[int, list[Take]] = defaultdict(list)
    for take in takes:
        takes_of[take.student_id].append(take)
    return [_row(part, takes_of_student, voice) for takes_of_student in takes_of.values()]


def _row(part: Part, takes: Sequence[Take], voice: str | None) -> PictureRow:
    readable = [(take, bars) for take in takes if (bars := _bars(part, take, voice))]
    merged = []
    for states in zip(*(bars for _take, bars in readable), strict=True):
        worst, take = max(
            ((state, take) for state, (take, _bars_of_take) in zip(states, readable, strict=True)),
            key=lambda pair: pair[0].fault,
        )
        fault = sum(state.fault for state in states) / len(states)
        merged.append(PictureBarState(number=worst.number, state=worst.state, fault=fault, take=take))
    return PictureRow(take=max(takes, key=lambda take: take.number), bars=tuple(merged))


def _troubled(rows: Sequence[Sequence[BarState]]) -> tuple[PictureBar, ...]:
    """Return how many of these rows have trouble in each bar. Rows that cannot be read are empty."""
    readable = [bars for bars in rows if bars]
    troubled = Counter(bar.number for bars in readable for bar in bars if bar.is_troubled)
    first = readable[0] if readable else ()
    return tuple(PictureBar(number=bar.number, troubled=troubled[bar.number]) for bar in first)


def _bars(part: Part, take: Take, voice: str | None) -> tuple[BarState, ...]:
    judgement = judged(take)
    if not judgement.is_readable:
        return ()
    return tuple(bar_states(part, judgement.facts, judgement.judgement, voice))
