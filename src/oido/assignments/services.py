"""Give exercises to classes."""

import logging
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from oido.assignments.models import Assignment
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise
from oido.people.models import SchoolClass, User

logger = logging.getLogger(__name__)


@transaction.atomic
def give_exercise(
    teacher: User, exercise: Exercise, school_class: SchoolClass, *, due_at: datetime
) -> Assignment:
    """Give an exercise of the teacher's school to one of the teacher's classes; not an empty page."""
    teaches = teacher.is_teacher and school_class.teachers.filter(pk=teacher.pk).exists()
    if not teaches or exercise.school_id != teacher.school_id or not exercise.part.read().notes:
        raise NotAllowed
    assignment = Assignment.objects.create(
        exercise=exercise,
        school_class=school_class,
        given_by=teacher,
        given_at=timezone.now(),
        due_at=due_at,
    )
    logger.info("exercise %s given to class %s", exercise.pk, school_class.pk)
    return assignment
