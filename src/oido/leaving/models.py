"""What remains of somebody who has been erased; and the terms after which takes go."""

from typing import Any

from django.core.exceptions import ValidationError
from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.people.models import SchoolRow, User


class Erasure(SchoolRow):
    """The receipt: that somebody was erased, when, by whom, and what went. No name, no key of theirs."""

    receipt = models.CharField(max_length=20, unique=True)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    went = models.JSONField(default=dict)
    """How many of what, by kind."""

    class Meta:
        ordering = ["-at"]

    @property
    def counts_by_kind(self) -> list[tuple[Any, int]]:
        return [(WENT[kind], count) for kind, count in self.went.items() if kind in WENT]


WENT = {
    "takes": _("takes deleted"),
    "recordings": _("recordings removed from takes that were handed in"),
    "remarks": _("remarks"),
    "replies": _("replies"),
    "notes": _("notes and answers at handing in"),
    "sessions": _("sessions ended"),
    "letters": _("e-mails"),
    "files": _("files created from them"),
}


class Term(SchoolRow):
    """A stretch of the school's year. Takes of what was given in it go so many months after its end."""

    name = models.CharField(pgettext_lazy("label", "name"), max_length=60)
    begins_on = models.DateField(_("begins"))
    ends_on = models.DateField(_("ends"))

    class Meta:
        ordering = ["-begins_on"]
        constraints = [models.UniqueConstraint(fields=["school", "name"], name="term_name_in_school")]

    def clean(self) -> None:
        if self.begins_on and self.ends_on and self.begins_on >= self.ends_on:
            raise ValidationError({"ends_on": _("A term ends after it begins.")})

    def __str__(self) -> str:
        return self.name
