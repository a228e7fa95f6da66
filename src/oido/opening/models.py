"""What lets somebody set up the first school of an instance, once."""

from django.db import models
from django.utils import timezone


class SetupCode(models.Model):
    """A code that the start command prints. Its hash alone is stored; used, or where there is a school, it is over."""

    code_hash = models.CharField(max_length=64)
    made_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True)
