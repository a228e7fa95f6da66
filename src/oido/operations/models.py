"""Who works beside the server, on whichever machine."""

from django.db import models
from django.utils import timezone


class Helper(models.Model):
    """A process that is not the server, by its last sign of life. One that has ended leaves none for long."""

    class Kind(models.TextChoices):
        WORKER = "worker"
        SCHEDULER = "scheduler"

    kind = models.CharField(max_length=10, choices=Kind.choices)
    name = models.CharField(max_length=120)
    """Its machine and its number there."""
    beat_at = models.DateTimeField(default=timezone.now, db_index=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "name"], name="helper_once")]
