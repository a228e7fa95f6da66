"""Exercises given to classes, and what is handed in for them."""

from django.db import models

from oido.exercises.models import Exercise
from oido.people.models import SchoolClass, User


class Assignment(models.Model):
    """An exercise given to a class."""

    exercise = models.ForeignKey(Exercise, on_delete=models.PROTECT, related_name="assignments")
    school_class = models.ForeignKey(SchoolClass, on_delete=models.PROTECT, related_name="assignments")
    given_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    given_at = models.DateTimeField()
    due_at = models.DateTimeField()

    class Meta:
        ordering = ["due_at", "id"]

    def __str__(self) -> str:
        return f"{self.exercise}, {self.school_class}"
