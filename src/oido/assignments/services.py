"""Give exercises to classes."""

import logging
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from oido.assignments.models import Assignment
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise
from oido.people.models import SchoolClass, User
from oido.people.queries import teaches
from oido.rubrics.models import RubricVersion
from oido.rubrics.queries import visible_rubrics

logger = logging.getLogger(__name__)


@transaction.atomic
def give_exercise(
    teacher: User,
    exercise: Exercise,
    school_class: SchoolClass,
    *,
    due_at: datetime,
    rubric: RubricVersion | None = None,
    releases_at_once: bool = False,
) -> Assignment:
    """Give an exercise of the teacher's school to one of the teacher's classes; not an empty page."""
    if (
        not teaches(teacher, school_class)
        or school_class.archived_at is not None
        or exercise.school_id != teacher.school_id
        or not exercise.part_in_force.read().notes
    ):
        raise NotAllowed
    if rubric is not None:
        is_known = visible_rubrics(teacher).filter(pk=rubric.rubric_id, kind=exercise.kind).exists()
        if not is_known:
            raise NotAllowed
    assignment = Assignment.objects.create(
        school_id=exercise.school_id,
        exercise=exercise,
        school_class=school_class,
        given_by=teacher,
        given_at=timezone.now(),
        due_at=due_at,
        rubric=rubric,
        releases_at_once=releases_at_once,
    )
    remember("exercise_given", actor=teacher, school_class=school_class, title=exercise.title)
    logger.info("exercise %s given to class %s", exercise.pk, school_class.pk)
    return assignment
