"""Marks of a class side by side: columns, what is entered by hand, and its history."""

from django.db import models
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.assignments.models import Assignment
from oido.leaving.models import Term
from oido.people.models import SchoolClass, SchoolRow, User

MAX_NAME_LENGTH, MAX_WHY_LENGTH, MAX_TEXT_LENGTH = 60, 200, 3000


class Column(SchoolRow):
    """A column of a class's gradebook: of an assignment, or the teacher's own (a concert, a written test).

    An assignment has one only where something is said of it that is not as usual.
    """

    school_class = models.ForeignKey(SchoolClass, on_delete=models.CASCADE, related_name="columns")
    assignment = models.OneToOneField(Assignment, on_delete=models.CASCADE, null=True, related_name="column")
    name = models.CharField(pgettext_lazy("label", "name"), max_length=MAX_NAME_LENGTH, blank=True)
    """Of an own column."""
    out_of = models.PositiveIntegerField(_("out of"), default=100)
    """Of an own column; an assignment's marks are out of what its rubric says."""
    weight = models.DecimalField(pgettext_lazy("label", "weight"), max_digits=5, decimal_places=2, default=1)
    on = models.DateField(_("day"), null=True)
    """Of an own column: by which it stands among the others, and in a term."""

    class Meta:
        ordering = ["on", "id"]


class State(models.TextChoices):
    MARK = "mark", _("a mark")
    EXCUSED = "excused", pgettext_lazy("choice", "excused")
    MISSING = "missing", pgettext_lazy("choice", "missing")


class Entry(models.Model):
    """What a teacher has entered for one student: in an own column, or in place of what an assignment's take has."""

    column = models.ForeignKey(Column, on_delete=models.CASCADE, related_name="entries")
    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="entries")
    state = models.CharField(max_length=10, choices=State.choices, default=State.MARK)
    points = models.DecimalField(max_digits=7, decimal_places=2, null=True)
    """Of a mark; out of what the column is out of."""

    class Meta:
        constraints = [models.UniqueConstraint(fields=["column", "student"], name="one_entry_of_student")]


class EntryChange(models.Model):
    """Who entered what, in place of what, and why."""

    column = models.ForeignKey(Column, on_delete=models.CASCADE, related_name="changes")
    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    before = models.CharField(max_length=20, blank=True)
    after = models.CharField(max_length=20, blank=True)
    """As they are typed; empty for nothing."""
    why = models.CharField(max_length=MAX_WHY_LENGTH, blank=True)

    class Meta:
        ordering = ["-id"]


class ReportText(models.Model):
    """What a teacher writes about a student for a term's report."""

    school_class = models.ForeignKey(SchoolClass, on_delete=models.CASCADE, related_name="texts")
    term = models.ForeignKey(Term, on_delete=models.CASCADE, null=True, related_name="+")
    """None for the whole time."""
    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="texts")
    text = models.TextField(max_length=MAX_TEXT_LENGTH)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["school_class", "term", "student"], name="one_text_of_term"),
        ]
