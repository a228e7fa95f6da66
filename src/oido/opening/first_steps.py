"""What a teacher does first, and what of it is done."""

from dataclasses import dataclass

from django.db import models
from django.db.models import Exists
from django.utils.translation import gettext_lazy as _

from oido.assignments.models import Assignment
from oido.exercises.models import Exercise
from oido.opening.models import DismissedStep
from oido.people.models import Attendance, SchoolClass, User
from oido.people.queries import classes_of


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstSteps:
    school_class: SchoolClass | None
    """The first of the teacher's classes."""
    students: int
    exercises: int
    """Of the school."""
    has_assigned: bool


class FirstStep(models.TextChoices):
    """In the order in which they are done."""

    CLASS = "class", _("Make a class")
    PEOPLE = "people", _("Add your students")
    EXERCISE = "exercise", _("Give your first exercise")


def open_steps(teacher: User) -> list[FirstStep]:
    """Return the first steps that a teacher has neither done nor dismissed. Two queries."""
    own = classes_of(teacher).filter(archived_at=None)
    are_done = User.objects.filter(pk=teacher.pk).values_list(
        Exists(own),
        Exists(Attendance.objects.filter(schoolclass__in=own)),
        Exists(Assignment.objects.filter(school_class__in=own)),
    )[0]
    dismissed = set(DismissedStep.objects.filter(person=teacher).values_list("step", flat=True))
    pairs = zip(FirstStep, are_done, strict=True)
    return [step for step, is_done in pairs if not is_done and step.value not in dismissed]


def dismiss_step(teacher: User, step: FirstStep) -> None:
    DismissedStep.objects.get_or_create(person=teacher, step=step.value)


def first_steps(teacher: User) -> FirstSteps:
    own = classes_of(teacher).filter(archived_at=None)
    first_class = own.first()
    return FirstSteps(
        school_class=first_class,
        students=User.objects.filter(classes_attended__in=own).distinct().count(),
        exercises=Exercise.objects.filter(school=teacher.school_id).count(),
        has_assigned=Assignment.objects.filter(school_class__in=own).exists(),
    )
