"""Make exercises."""

import logging
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from ear.formats.part_json import part_to_json
from ear.notes import Part
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise, TargetPart
from oido.people.models import User

logger = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True, kw_only=True)
class NewExercise:
    """All that a teacher says of a new exercise; the part as read from the file."""

    title: str
    kind: str
    instructions: str
    tempo_bpm: Decimal
    count_in_bars: int
    level: str
    part: Part
    source_name: str = ""
    source_file: bytes | None = None


@transaction.atomic
def create_exercise(teacher: User, new: NewExercise) -> Exercise:
    """Store an exercise with its target part, set to the exercise's tempo."""
    if not teacher.is_teacher or teacher.school is None:
        raise NotAllowed
    exercise = Exercise.objects.create(
        school=teacher.school,
        owner=teacher,
        title=new.title,
        kind=new.kind,
        instructions=new.instructions,
        tempo_bpm=new.tempo_bpm,
        count_in_bars=new.count_in_bars,
        level=new.level,
    )
    exercise.part = TargetPart.objects.create(
        exercise=exercise,
        number=1,
        data=part_to_json(new.part.at_tempo(float(new.tempo_bpm))),
        source_name=new.source_name,
        source_file=new.source_file,
    )
    exercise.save(update_fields=["part"])
    logger.info("exercise %s made by %s", exercise.pk, teacher.pk)
    return exercise


@transaction.atomic
def replace_part(exercise: Exercise, part: Part) -> TargetPart:
    """Put another part in force, its tempo the exercise's. The one before stays for its takes."""
    locked = Exercise.objects.select_for_update().get(pk=exercise.pk)
    last = locked.parts.order_by("-number").first()
    made = TargetPart.objects.create(
        exercise=locked,
        number=last.number + 1 if last else 1,
        data=part_to_json(part.at_tempo(float(locked.tempo_bpm))),
    )
    locked.part = made
    locked.save(update_fields=["part"])
    exercise.part = made
    return made
