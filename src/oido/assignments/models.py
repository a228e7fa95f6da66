"""Exercises given to classes and to single students, and what holds for each."""

from django.db import models
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.judging.rubric import Rubric as EarRubric
from oido.booklets.models import Booklet
from oido.exercises.models import Exercise
from oido.people.models import SchoolClass, SchoolRow, User
from oido.rubrics.models import RubricVersion, read_version

MAX_WHY_LENGTH = 200


class Late(models.TextChoices):
    """What becomes of a take that is handed in after the due date."""

    TAKEN = "taken", pgettext_lazy("choice", "accepted")
    COSTS = "costs", _("taken, with points off as the rubric says")
    REFUSED = "refused", _("not accepted")


class FeedbackVisibility(models.TextChoices):
    """What students see before a teacher has released the mark."""

    ANALYSIS = "reading", _("what Oido heard; the mark once it is released")
    AT_ONCE = "at-once", _("everything, as soon as they hand in")
    NOTHING = "nothing", _("nothing until the mark is released")


class BookletAssignment(SchoolRow):
    """A booklet given to a class: an assignment for each of its exercises, worked through and handed in together."""

    booklet = models.ForeignKey(Booklet, on_delete=models.PROTECT, related_name="assigned")
    school_class = models.ForeignKey(
        SchoolClass, on_delete=models.PROTECT, related_name="booklet_assignments"
    )
    given_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    given_at = models.DateTimeField()

    class Meta:
        ordering = ["-given_at"]

    def __str__(self) -> str:
        return self.booklet.title


class Assignment(SchoolRow):
    """An exercise given to a class, or to some students of it."""

    exercise = models.ForeignKey(Exercise, on_delete=models.PROTECT, related_name="assignments")
    school_class = models.ForeignKey(SchoolClass, on_delete=models.PROTECT, related_name="assignments")
    is_for_all = models.BooleanField(default=True)
    """For everybody of the class, who comes later included; else for those whose arrangement says so."""
    given_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    given_at = models.DateTimeField()
    opens_at = models.DateTimeField(null=True)
    """Students see it from then on; None for from the beginning."""
    due_at = models.DateTimeField()
    late = models.CharField(max_length=10, choices=Late.choices, default=Late.TAKEN)
    attempts = models.PositiveSmallIntegerField(null=True)
    """Takes allowed; None: as the exercise says. The next two are alike."""
    slower_percent = models.PositiveSmallIntegerField(null=True)
    faster_percent = models.PositiveSmallIntegerField(null=True)
    rubric = models.ForeignKey(RubricVersion, on_delete=models.PROTECT, null=True, related_name="assignments")
    """By which takes are marked; None for Oido's own."""
    seen = models.CharField(
        max_length=10, choices=FeedbackVisibility.choices, default=FeedbackVisibility.ANALYSIS
    )
    closed_at = models.DateTimeField(null=True)
    """Its teacher has closed it: nothing more is handed in, whatever the due date."""
    booklet = models.ForeignKey(
        BookletAssignment, on_delete=models.PROTECT, null=True, related_name="assignments"
    )
    """Of a booklet that was given; `place` is where it stands in it, from 0."""
    place = models.PositiveIntegerField(default=0)
    withdrawn_at = models.DateTimeField(null=True)
    """Students do not see it any more; what they recorded stays."""

    class Meta:
        ordering = ["due_at", "id"]

    def __str__(self) -> str:
        return f"{self.exercise}, {self.school_class}"

    @property
    def marked_by(self) -> EarRubric:
        return read_version(self.rubric, self.exercise.kind)


class Arrangement(models.Model):
    """What holds for one student of an assignment and not for the others."""

    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="arrangements")
    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="arrangements")
    is_given = models.BooleanField(default=False)
    """It is for this student, where it is not for all."""
    excused_at = models.DateTimeField(null=True)
    excused_why = models.CharField(max_length=MAX_WHY_LENGTH, blank=True)
    due_at = models.DateTimeField(null=True)
    """None for as the others have it; so with what follows."""
    attempts = models.PositiveSmallIntegerField(null=True)
    slower_percent = models.PositiveSmallIntegerField(null=True)
    version = models.ForeignKey(Exercise, on_delete=models.PROTECT, null=True, related_name="+")
    """An exercise to be played instead: easier, in another key, for one hand."""

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["assignment", "student"], name="one_arrangement_of_student"),
        ]


class Reminder(models.Model):
    """A teacher has reminded a student of what is still to be handed in."""

    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="reminders")
    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="reminders")
    by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    sent_at = models.DateTimeField()

    class Meta:
        ordering = ["-sent_at"]
        indexes = [models.Index(fields=["student", "-sent_at"])]
