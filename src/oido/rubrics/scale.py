"""A teacher's scale set by ear: takes to hear, marks, the scale that fits them."""

from functools import lru_cache

from django.db import transaction

from ear.judging.scale import TAKES, FittedRubric, Graded, fit, graded_takes
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise, TargetPart
from oido.people.models import User
from oido.rubrics.models import Rubric, ScaleHearing
from oido.rubrics.services import make_rubric

SEEDS = 10_000


def hearing_of(teacher: User, exercise: Exercise) -> ScaleHearing:
    """Return the teacher's listening session for the exercise's current part, begun if there is none.

    Raise NotAllowed for an empty part.
    """
    if not teacher.is_teacher or not exercise.part_in_force.read().notes:
        raise NotAllowed
    # The seed follows from both, so that two pages opened at once hear the same takes.
    seed = (31 * teacher.pk + 7 * exercise.part_in_force.pk) % SEEDS + 1
    made, _ = ScaleHearing.objects.get_or_create(
        teacher=teacher, part=exercise.part, defaults={"seed": seed}
    )  # fmt: skip
    return made


def takes_of(hearing: ScaleHearing) -> tuple[Graded, ...]:
    return _takes(hearing.part_id, hearing.seed)


@lru_cache(maxsize=8)
def _takes(part: int, seed: int) -> tuple[Graded, ...]:
    """A stored part never changes: its takes are played once for a while."""
    return graded_takes(TargetPart.objects.get(pk=part).read(), seed=seed)


@transaction.atomic
def write_marks(hearing: ScaleHearing, marks: dict[int, float | None]) -> ScaleHearing:
    """Add marks to those that are there, so that hearing can go on another day; None takes one back."""
    locked = ScaleHearing.objects.select_for_update().get(pk=hearing.pk)
    written = {**locked.marks, **{str(number): mark for number, mark in marks.items()}}
    locked.marks = {number: mark for number, mark in written.items() if mark is not None}
    locked.save(update_fields=["marks"])
    return locked


def fitted(hearing: ScaleHearing) -> FittedRubric:
    """Return the scale that fits the teacher's marks, all of which must be there. Raise ContradictoryMarks."""
    takes = takes_of(hearing)
    return fit(
        takes[0].facts.target.kind,
        [one.facts for one in takes],
        [float(hearing.marks[str(k)]) for k in range(TAKES)],
    )


@transaction.atomic
def save_scale(teacher: User, hearing: ScaleHearing, *, name: str, kind: str) -> Rubric:
    """Save the scale as the teacher's own rubric. Raise ContradictoryMarks."""
    return make_rubric(teacher, name=name, kind=kind, says=fitted(hearing).rubric)
