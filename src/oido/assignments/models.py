"""Exercises given to classes, and what is handed in for them."""

from django.db import models

from ear.judging.rubric import Rubric as EarRubric
from oido.exercises.models import Exercise
from oido.people.models import SchoolClass, SchoolRow, User
from oido.rubrics.models import RubricVersion, read_version


class Assignment(SchoolRow):
    """An exercise given to a class."""

    exercise = models.ForeignKey(Exercise, on_delete=models.PROTECT, related_name="assignments")
    school_class = models.ForeignKey(SchoolClass, on_delete=models.PROTECT, related_name="assignments")
    given_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    given_at = models.DateTimeField()
    due_at = models.DateTimeField()
    rubric = models.ForeignKey(RubricVersion, on_delete=models.PROTECT, null=True, related_name="assignments")
    """By which takes are marked; None for Oido's own."""
    releases_at_once = models.BooleanField(default=False)
    """Students see mark and ear notes as soon as they hand in."""

    class Meta:
        ordering = ["due_at", "id"]

    def __str__(self) -> str:
        return f"{self.exercise}, {self.school_class}"

    @property
    def marked_by(self) -> EarRubric:
        return read_version(self.rubric, self.exercise.kind)
