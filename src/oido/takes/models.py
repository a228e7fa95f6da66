"""Takes as they were recorded, and what was measured in them."""

from django.db import models
from django.utils.translation import gettext_lazy as _

from ear.formats.events import check_events, take_from_events
from ear.notes import Take as EarTake
from oido.assignments.models import Assignment
from oido.exercises.models import TargetPart
from oido.people.models import User


class Source(models.TextChoices):
    MIDI = "midi", _("MIDI device")
    TYPING = "typing", _("typing keys")
    SCREEN = "screen", _("on-screen keys")
    ROBOT = "robot", _("robot player")


WITHOUT_TOUCH = frozenset({Source.TYPING, Source.SCREEN})
"""Sources that give every note one strength."""


class Take(models.Model):
    """One recorded attempt. Its events never change."""

    id = models.UUIDField(primary_key=True)
    """Made in the browser, so that a take sent twice arrives once."""
    assignment = models.ForeignKey(Assignment, on_delete=models.PROTECT, related_name="takes")
    student = models.ForeignKey(User, on_delete=models.PROTECT, related_name="takes")
    part = models.ForeignKey(TargetPart, on_delete=models.PROTECT, related_name="takes")
    number = models.PositiveIntegerField()
    """Counted from 1 for each student and assignment."""
    events = models.JSONField()
    """Raw, as `ear.formats.events` says: times from the scheduled downbeat, no latency off."""
    source = models.CharField(max_length=10, choices=Source.choices)
    device = models.CharField(max_length=120, blank=True)
    latency_ms = models.FloatField(default=0.0)
    """Measured for the set-up; taken off when the take is read."""
    tempo_bpm = models.DecimalField(max_digits=5, decimal_places=2)
    """The click's."""
    recorded_at = models.DateTimeField()
    received_at = models.DateTimeField(auto_now_add=True)
    handed_in_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(
                fields=["assignment", "student", "number"], name="take_number_of_student"
            ),
        ]

    def __str__(self) -> str:
        return f"take {self.number} of {self.student}"

    @property
    def is_handed_in(self) -> bool:
        return self.handed_in_at is not None

    def read(self) -> EarTake:
        return take_from_events(
            check_events(self.events),
            latency_ms=self.latency_ms,
            has_touch=self.source not in WITHOUT_TOUCH,
        )


class Measurement(models.Model):
    """What the core measured in a take, with the version of its code."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="measurement")
    version = models.CharField(max_length=20)
    result = models.JSONField()
    """Schema `oido.measure/1`."""
    measured_at = models.DateTimeField(auto_now=True)
