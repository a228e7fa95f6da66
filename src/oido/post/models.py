"""Letters that Oido writes: what is in the school's outbox."""

from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.people.models import SchoolRow, User


class Email(SchoolRow):
    """One e-mail, to one address. Kept for the outbox page for as long as `oido.post.services.KEPT` says."""

    class State(models.TextChoices):
        WAITING = "waiting", pgettext_lazy("choice", "waiting")
        SENT = "sent", _("sent")
        FAILED = "failed", _("could not be sent")

    to = models.EmailField()
    person = models.ForeignKey(User, on_delete=models.CASCADE, null=True, related_name="+")
    """Whose address it is, if it is somebody's here."""
    purpose = models.CharField(max_length=20)
    subject = models.CharField(max_length=200)
    body = models.TextField()
    is_secret = models.BooleanField(default=False)
    """It lets somebody in: once a mail server has it, nobody else reads it here."""
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    problem = models.CharField(max_length=300, blank=True)
    written_at = models.DateTimeField(default=timezone.now)
    sent_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-written_at", "-pk"]
        indexes = [models.Index(fields=["school", "-written_at"]), models.Index(fields=["person", "purpose"])]
