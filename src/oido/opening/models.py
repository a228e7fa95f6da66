"""Setting up the first school of an instance, once; first steps that a teacher does not want to see."""

from django.db import models
from django.utils import timezone

from oido.people.models import User


class SetupCode(models.Model):
    """A code that the start command prints. Its hash alone is stored; used, or where there is a school, it is over."""

    code_hash = models.CharField(max_length=64)
    made_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True)


class DismissedStep(models.Model):
    """A first step that a teacher does not want to be reminded of."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    step = models.CharField(max_length=10)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["person", "step"], name="one_dismissal_of_step"),
        ]
