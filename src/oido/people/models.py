"""Schools, people and classes."""

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils.translation import gettext_lazy as _


class School(models.Model):
    name = models.CharField(max_length=120)
    middle_c_octave = models.SmallIntegerField(
        default=4, choices=[(4, "C4"), (3, "C3")], help_text=_("How the school names middle C.")
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
