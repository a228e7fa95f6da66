"""How people come into a school: lists, join codes, invitations."""

from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.people.models import Role, SchoolClass, SchoolRow, User


class ListImport(SchoolRow):
    """A list that somebody has sent: looked at, done, undone."""

    class State(models.TextChoices):
        LOOKED = "looked", _("not imported yet")
        DONE = "done", _("imported")
        UNDONE = "undone", pgettext_lazy("choice", "undone")

    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    file_name = models.CharField(max_length=200, blank=True)
    school_class = models.ForeignKey(SchoolClass, on_delete=models.SET_NULL, null=True, related_name="+")
    """Into which all of it goes; None where the list names classes, or none."""
    people = models.JSONField(default=list)
    """As `oido.roster.lists` read them. Emptied once it can no longer be undone: names stand in one place."""
    names_own_classes = models.BooleanField(default=False)
    """From an archive that says who is in which class: nothing of it is put into `school_class`."""
    left_out = models.JSONField(default=list)
    """People whom the archive names but does not offer, as `oido.roster.lists` read them."""
    for_head = models.BooleanField(default=False)
    """Lines of a teacher's list that a head has to decide."""
    split_from = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=8, choices=State.choices, default=State.LOOKED)
    done = models.JSONField(default=dict)
    """What to do to undo it: as `oido.roster.importing` writes it."""

    class Meta:
        ordering = ["-made_at", "-pk"]


class JoinCode(SchoolRow):
    """A code by which students come into a class by themselves, until it ends."""

    school_class = models.ForeignKey(SchoolClass, on_delete=models.CASCADE, related_name="join_codes")
    code = models.CharField(max_length=20, unique=True)
    """In the clear: its teachers read it out. It lets somebody into one class, and ends."""
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    ends_at = models.DateTimeField()
    closed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at"]

    @property
    def is_open(self) -> bool:
        return self.closed_at is None and timezone.now() < self.ends_at


class Joined(models.Model):
    """Who came by a code, and when."""

    code = models.ForeignKey(JoinCode, on_delete=models.CASCADE, related_name="joined")
    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at"]
        constraints = [models.UniqueConstraint(fields=["code", "person"], name="joined_once_by_code")]


class Invitation(SchoolRow):
    """An e-mail that lets its reader in, in one role. Only the hash of its link is stored."""

    email = models.EmailField()
    role = models.CharField(max_length=10, choices=Role.choices)
    school_class = models.ForeignKey(SchoolClass, on_delete=models.SET_NULL, null=True, related_name="+")
    token_hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    ends_at = models.DateTimeField()
    accepted_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at"]

    @property
    def is_open(self) -> bool:
        return self.accepted_by_id is None and self.withdrawn_at is None and timezone.now() < self.ends_at
