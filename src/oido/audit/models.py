"""What was done, by whom, when and from where."""

from django.db import models
from django.utils import timezone
from django.utils.translation import gettext as _

from oido.audit.acts import ACTS
from oido.people.models import SchoolClass, SchoolRow, User


class Act(SchoolRow):
    """One line. Never changed; names are looked up when it is read."""

    at = models.DateTimeField(default=timezone.now)
    code = models.CharField(max_length=30)
    """A row of `oido.audit.acts`."""
    actor = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    """None for what went by itself, and for somebody who has been erased."""
    person = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    """Whom it concerns."""
    school_class = models.ForeignKey(SchoolClass, on_delete=models.SET_NULL, null=True, related_name="+")
    values = models.JSONField(default=dict)
    """What else its sentence needs. No names of people."""
    address = models.GenericIPAddressField(null=True)
    """From where, as the server saw it."""

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [models.Index(fields=["school", "-at", "-id"]), models.Index(fields=["school", "code"])]

    @property
    def text(self) -> str:
        values = {
            **self.values,
            "person": self.person.name if self.person else _("a former member"),
            "school_class": self.school_class.name if self.school_class else _("a class that is gone"),
        }
        return str(ACTS[self.code]) % values if self.code in ACTS else self.code

    @property
    def who(self) -> str:
        return self.actor.name if self.actor else _("a former member, or Oido itself")
