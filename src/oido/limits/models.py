"""How much each person and each address has used."""

from django.db import models
from django.utils import timezone


class Usage(models.Model):
    """What one person or one address has used of one limit since its period began."""

    limit = models.CharField(max_length=20)
    source = models.CharField(max_length=60)
    """The key of a person who is signed in, else an address."""
    requests = models.PositiveIntegerField(default=0)
    bytes = models.PositiveBigIntegerField(default=0)
    period_began_at = models.DateTimeField(default=timezone.now, db_index=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["limit", "source"], name="usage_once_by_source")]
