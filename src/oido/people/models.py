"""Schools, the people of each, and classes."""

import zoneinfo
from collections.abc import Iterator
from typing import Any, TypeVar

from django.contrib.auth.models import AbstractUser
from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone
from django.utils.functional import cached_property
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.common.languages import BRITISH, CHOICES, language_called
from oido.people.scope import SchoolNotNamed, Scope, scope, within


class ValueNames(models.TextChoices):
    BRITISH = "british", _("crotchet, quaver")
    AMERICAN = "american", _("quarter note, eighth note")


class NoteNames(models.TextChoices):
    LETTERS = "letters", _("letters: C D E")
    SOLFEGE = "solfege", _("solfège: do re mi")


def usual_note_names(language: str) -> NoteNames:
    """Return how notes are named in a language unless someone says otherwise."""
    return NoteNames.SOLFEGE if language_called(language).has_solfege else NoteNames.LETTERS


MIDDLE_C = [(4, "C4"), (3, "C3")]
M = TypeVar("M", bound=models.Model)


def check_zone(name: str) -> None:
    if name not in zoneinfo.available_timezones():
        raise ValidationError(_("“%(name)s” is not a time zone."), params={"name": name})


class School(models.Model):
    """A school, how things are named there, and by which clock it lives."""

    name = models.CharField(pgettext_lazy("label", "name"), max_length=120)
    time_zone = models.CharField(_("time zone"), max_length=64, default="UTC", validators=[check_zone])
    """By its IANA name. All times are shown in it, and due dates are meant in it."""
    language = models.CharField(
        _("language"), max_length=10, choices=CHOICES, default=BRITISH.code, db_default=BRITISH.code
    )
    """What those read who have not chosen another."""
    keep_months = models.PositiveSmallIntegerField(
        _("months to keep takes after the term"), null=True, blank=True,
        validators=[MinValueValidator(1), MaxValueValidator(240)],
    )  # fmt: skip
    """None for as long as the school is there."""
    staff_need_two_step = models.BooleanField(
        _("staff must use two-step sign-in"), default=False, db_default=False
    )
    middle_c_octave = models.SmallIntegerField(_("middle C is"), default=4, choices=MIDDLE_C)
    value_names = models.CharField(
        _("note values"), max_length=10, choices=ValueNames.choices, default=ValueNames.BRITISH
    )
    note_names = models.CharField(
        _("note names"), max_length=10, choices=NoteNames.choices, default=NoteNames.LETTERS
    )

    max_people = models.PositiveIntegerField(null=True, blank=True)
    max_takes = models.PositiveIntegerField(null=True, blank=True)
    """Quotas of this school alone; None for those of the installation. `manage.py set_quota` sets them."""
    take_count = models.PositiveIntegerField(default=0, db_default=0)
    """Takes kept, as counted once a day."""

    def __str__(self) -> str:
        return self.name

    def within(self) -> Any:
        """Make this the current school, with its clock, for a block."""
        return within(self.pk, time_zone=self.time_zone)


def each_school() -> Iterator[School]:
    """Yield all schools, each as the current school in its turn."""
    for school in School.objects.order_by("pk"):
        with school.within():
            yield school


class SchoolManager(models.Manager[M]):
    """Finds the rows of the school in which something is done, and no others."""

    def get_queryset(self) -> models.QuerySet[M]:
        """Return the rows of the current school. Raise SchoolNotNamed if there is none."""
        rows, named = super().get_queryset(), scope()
        if named is Scope.UNNAMED:
            raise SchoolNotNamed(f"{self.model.__name__}: say in whose school, with School.within()")
        if named is Scope.EVERYWHERE:
            return rows
        return rows.none() if named is Scope.NOWHERE else rows.filter(school_id=named)

    def none(self) -> models.QuerySet[M]:
        """Return no rows in any scope, because forms are declared outside all schools."""
        return super().get_queryset().none()


class SchoolRow(models.Model):
    """A row that belongs to one school, and is reached by an address or a list of its own."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="+")

    objects = SchoolManager()
    everywhere: models.Manager[Any] = models.Manager()
    """For who is in no school yet, or in several: what is found by it is checked by its user."""

    class Meta:
        abstract = True


class Role(models.TextChoices):
    HEAD = "head", _("Head")
    TEACHER = "teacher", _("Teacher")
    STUDENT = "student", _("Student")


FORMER = {
    Role.HEAD.value: _("a former head"),
    Role.TEACHER.value: _("a former teacher"),
    Role.STUDENT.value: _("a former student"),
}
STAFF = frozenset({Role.HEAD, Role.TEACHER})


class User(AbstractUser):
    """A person who can sign in. What they may do, they may do as a member of a school."""

    middle_c_octave = models.SmallIntegerField(_("middle C is"), null=True, blank=True, choices=MIDDLE_C)
    value_names = models.CharField(_("note values"), max_length=10, choices=ValueNames.choices, blank=True)
    note_names = models.CharField(_("note names"), max_length=10, choices=NoteNames.choices, blank=True)
    """These three are the school's where they are empty."""
    language = models.CharField(
        _("language"), max_length=10, choices=CHOICES, blank=True, default="", db_default=""
    )
    """Empty for the school's."""
    left_handed = models.BooleanField(_("left-handed kit"), default=False)
    tours_seen = models.CharField(max_length=60, blank=True, default="", db_default="")
    """Tours that they have taken or declined, by their slugs with spaces between."""

    erased_as = models.CharField(max_length=10, blank=True)
    """The role of somebody whose names are gone; empty for everybody else."""

    @property
    def name(self) -> str:
        if self.erased_as:
            return str(FORMER[self.erased_as])
        return self.get_full_name() or self.username

    @cached_property
    def member_of(self) -> "tuple[Membership, ...]":
        """What they are now, and in which schools; where something is done in one school, in that one. The one
        where they were last stands ahead."""
        mine = Membership.everywhere.filter(person=self, left_at=None).select_related("school")
        school_scope = scope()
        if not isinstance(school_scope, Scope):
            mine = mine.filter(school_id=school_scope)
        return tuple(mine.order_by("-chosen_at", "pk"))

    @cached_property
    def membership(self) -> "Membership | None":
        """As whom they act: what the request has set, else the first."""
        return self.member_of[0] if self.member_of else None

    @property
    def school(self) -> School | None:
        return self.membership.school if self.membership else None

    @property
    def reads(self) -> str:
        """The code of the language they read: their own choice, or else the school's; empty where there is neither."""
        return self.language or (self.school.language if self.school is not None else "")

    @property
    def current_school(self) -> School:
        """The school in which something is done: whoever is in none does nothing there."""
        assert self.school is not None
        return self.school

    @property
    def school_id(self) -> int | None:
        return self.membership.school_id if self.membership else None

    @property
    def is_teacher(self) -> bool:
        return self.membership is not None and self.membership.role in STAFF

    @property
    def is_head(self) -> bool:
        return self.membership is not None and self.membership.role == Role.HEAD


class Membership(SchoolRow):
    """Somebody in a school, in one role. Who has left keeps the row, for what they did there."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="memberships")
    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(_("role"), max_length=10, choices=Role.choices)
    source_id = models.CharField(max_length=255, blank=True)
    """As a list of the school's office calls this person; empty where it does not."""
    joined_at = models.DateTimeField(default=timezone.now)
    left_at = models.DateTimeField(null=True)
    chosen_at = models.DateTimeField(default=timezone.now)
    """When this person last worked as this one: where they are after signing in."""

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["school", "person"], name="one_membership_in_school"),
        ]
        indexes = [models.Index(fields=["school", "role"]), models.Index(fields=["school", "source_id"])]

    def __str__(self) -> str:
        return f"{self.person.name}, {self.school}"


class SchoolClass(SchoolRow):
    """A class: students who are given exercises together, by its teachers."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="classes")
    name = models.CharField(pgettext_lazy("label", "name"), max_length=80)
    position = models.PositiveIntegerField(default=0)
    """In the order in which the school has its classes."""
    archived_at = models.DateTimeField(null=True)
    """Put away: to be read, and not to be given anything."""
    source_id = models.CharField(max_length=255, blank=True)
    teachers = models.ManyToManyField(User, related_name="classes_taught")
    students = models.ManyToManyField(User, through="Attendance", related_name="classes_attended", blank=True)

    class Meta:
        ordering = ["position", "name"]
        constraints = [
            models.UniqueConstraint(fields=["school", "name"], name="class_name_in_school"),
        ]

    def __str__(self) -> str:
        return self.name


class Attendance(models.Model):
    """A student attends a class. The names of its columns are those of the plain many-to-many table that it was."""

    schoolclass = models.ForeignKey(SchoolClass, on_delete=models.CASCADE, related_name="attendances")
    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="attendances")
    joined_at = models.DateTimeField(null=True, default=timezone.now)
    """Work that was due before then does not count for the student; None where all of it does."""

    class Meta:
        db_table = "people_schoolclass_students"
        constraints = [
            models.UniqueConstraint(fields=["schoolclass", "user"], name="one_attendance_of_student"),
        ]
