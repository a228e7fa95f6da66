"""What is done in the background: one row for each job, whoever does it."""

import uuid
from typing import Any

from django.db import models
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.people.models import School, SchoolManager, User


class Job(models.Model):
    """One piece of work. The queue itself is django-tasks'; this row is what people and other code look at."""

    class State(models.TextChoices):
        WAITING = "waiting", pgettext_lazy("choice", "waiting")
        RUNNING = "running", _("working")
        DONE = "done", _("ready")
        FAILED = "failed", pgettext_lazy("choice", "failed")

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    kind = models.CharField(max_length=40)
    """By what name it stands in `oido.jobs.kinds`."""
    arguments = models.JSONField(default=dict)
    key = models.CharField(max_length=120, blank=True)
    """What makes it one: asked for again while it waits or runs, it is the same job. Empty: each is its own."""
    title = models.CharField(max_length=200, blank=True)
    """What its owner reads."""
    back = models.CharField(max_length=300, blank=True)
    """The page from which it was asked for."""
    owner = models.ForeignKey(User, on_delete=models.CASCADE, null=True, related_name="jobs")
    """Who may look at it; None for work that nobody asked for."""
    school = models.ForeignKey(School, on_delete=models.CASCADE, null=True, related_name="+")
    """In whose school it is done; None for what goes through all of them."""
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    """0 where nobody knows how much there is."""
    tries = models.PositiveSmallIntegerField(default=0)
    problem = models.CharField(max_length=300, blank=True)
    """Why it failed, for its owner."""
    file = models.BinaryField(null=True)
    file_name = models.CharField(max_length=160, blank=True)
    file_type = models.CharField(max_length=80, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    beat_at = models.DateTimeField(null=True)
    """The last sign of life of who does it."""
    ended_at = models.DateTimeField(null=True)

    objects = SchoolManager()
    everywhere: models.Manager[Any] = models.Manager()
    """For the queue itself, which does the jobs of all schools."""

    class Meta:
        ordering = ["-made_at"]
        indexes = [models.Index(fields=["state", "beat_at"]), models.Index(fields=["key", "state"])]

    @property
    def is_over(self) -> bool:
        return self.state in (Job.State.DONE, Job.State.FAILED)

    @property
    def share(self) -> int:
        """Per cent done; 0 where nobody knows."""
        return round(100 * self.done / self.total) if self.total else 0
