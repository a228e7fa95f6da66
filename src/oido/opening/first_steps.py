"""What a teacher does first, and what of it is done."""

from dataclasses import dataclass

from oido.assignments.models import Assignment
from oido.exercises.models import Exercise
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_of


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstSteps:
    school_class: SchoolClass | None
    """The first of the teacher's classes."""
    students: int
    exercises: int
    """Of the school."""
    has_given: bool


def first_steps(teacher: User) -> FirstSteps:
    own = classes_of(teacher).filter(archived_at=None)
    found = own.first()
    return FirstSteps(
        school_class=found,
        students=User.objects.filter(classes_attended__in=own).distinct().count(),
        exercises=Exercise.objects.filter(school=teacher.school_id).count(),
        has_given=Assignment.objects.filter(school_class__in=own).exists(),
    )
