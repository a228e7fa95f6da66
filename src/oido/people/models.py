"""Schools, people and classes."""

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils.translation import gettext_lazy as _


class ValueNames(models.TextChoices):
    BRITISH = "british", _("crotchet, quaver")
    AMERICAN = "american", _("quarter note, eighth note")


class NoteNames(models.TextChoices):
    LETTERS = "letters", _("letters: C D E")
    SOLFEGE = "solfege", _("solfège: do re mi")


MIDDLE_C = [(4, "C4"), (3, "C3")]


class School(models.Model):
    """A school, and how things are named there."""

    name = models.CharField(max_length=120)
    middle_c_octave = models.SmallIntegerField(_("middle C is"), default=4, choices=MIDDLE_C)
    value_names = models.CharField(
        _("note values"), max_length=10, choices=ValueNames.choices, default=ValueNames.BRITISH
    )
    note_names = models.CharField(
        _("note names"), max_length=10, choices=NoteNames.choices, default=NoteNames.LETTERS
    )

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    TEACHER = "teacher", _("Teacher")
    STUDENT = "student", _("Student")


class User(AbstractUser):
    """A person of one school, in one role."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, null=True, related_name="people")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.STUDENT)
    middle_c_octave = models.SmallIntegerField(_("middle C is"), null=True, blank=True, choices=MIDDLE_C)
    value_names = models.CharField(_("note values"), max_length=10, choices=ValueNames.choices, blank=True)
    note_names = models.CharField(_("note names"), max_length=10, choices=NoteNames.choices, blank=True)
    """These three are the school's where they are empty."""
    left_handed = models.BooleanField(_("left-handed kit"), default=False)

    @property
    def name(self) -> str:
        return self.get_full_name() or self.username

    @property
    def is_teacher(self) -> bool:
        return self.role == Role.TEACHER


class SchoolClass(models.Model):
    """A class: students who are given exercises together, by its teachers."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="classes")
    name = models.CharField(max_length=80)
    teachers = models.ManyToManyField(User, related_name="classes_taught")
    students = models.ManyToManyField(User, related_name="classes_attended", blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["school", "name"], name="class_name_in_school"),
        ]

    def __str__(self) -> str:
        return self.name
