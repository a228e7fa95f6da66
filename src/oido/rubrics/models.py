"""Rubrics of a school, with all their versions."""

from django.db import models
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.judging.rubric import DEFAULT_RUBRICS
from ear.judging.rubric import Rubric as EarRubric
from ear.notes import Kind
from oido.exercises.models import KindChoice, TargetPart
from oido.people.models import SchoolRow, User


class Rubric(SchoolRow):
    """How marks are made, under a name. What it says stands in its versions."""

    owner = models.ForeignKey(User, on_delete=models.PROTECT, related_name="rubrics")
    name = models.CharField(pgettext_lazy("label", "name"), max_length=120)
    kind = models.CharField(pgettext_lazy("label", "kind"), max_length=10, choices=KindChoice.choices)
    is_shared = models.BooleanField(_("shared in the school"), default=False)
    current = models.OneToOneField(
        "RubricVersion", on_delete=models.PROTECT, null=True, related_name="current_of"
    )

    class Meta:
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name

    @property
    def in_force(self) -> "RubricVersion":
        """Every rubric has one; the column is empty only while it is made."""
        assert self.current is not None
        return self.current


class RubricVersion(models.Model):
    """One state of a rubric. Never changed once it is stored: marks refer to theirs."""

    rubric = models.ForeignKey(Rubric, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    data = models.JSONField()
    """As `ear.judging.rubric` writes it."""
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["rubric", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["rubric", "number"], name="version_number_in_rubric"),
        ]

    def __str__(self) -> str:
        return f"{self.rubric}, version {self.number}"

    def read(self) -> EarRubric:
        return EarRubric.from_json(self.data)


class ScaleHearing(models.Model):
    """Eight graded takes of an exercise that a teacher hears and marks, to set her scale by ear."""

    teacher = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    part = models.ForeignKey(TargetPart, on_delete=models.CASCADE, related_name="+")
    """The takes are of the part as it was."""
    seed = models.PositiveIntegerField()
    marks = models.JSONField(default=dict)
    """Of 100, by the take's place in the list, counted from 0."""

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["teacher", "part"], name="one_hearing_of_part"),
        ]


def read_version(version: RubricVersion | None, kind: str) -> EarRubric:
    """Return the rubric in a version, or Oido's own for the kind if there is none."""
    return version.read() if version is not None else DEFAULT_RUBRICS[Kind(kind)]
