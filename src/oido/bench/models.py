"""Working copies of target parts, with all that was done to them."""

from django.db import models

from ear.formats.part_json import part_from_json
from ear.notes import Part
from oido.exercises.models import Exercise


class Draft(models.Model):
    """The working copy of an exercise's part. What is kept becomes a target part."""

    exercise = models.OneToOneField(Exercise, on_delete=models.CASCADE, related_name="draft")
    position = models.PositiveIntegerField(default=0)
    """The number of the state on the Bench; higher ones can be done again."""
    selected = models.JSONField(default=list)
    """Notes by index in the state on the Bench."""
    kept_position = models.PositiveIntegerField(null=True, default=0)
    """The state that is the exercise's part; None once it can no longer be reached."""
    changed_at = models.DateTimeField(auto_now=True)


class DraftState(models.Model):
    """One state of a draft. Never changed once it is stored."""

    draft = models.ForeignKey(Draft, on_delete=models.CASCADE, related_name="states")
    number = models.PositiveIntegerField()
    act = models.CharField(max_length=40, blank=True)
    """The tool that made it, by its slug."""
    data = models.JSONField()
    """As `ear.formats.part_json` writes it."""

    class Meta:
        ordering = ["draft", "number"]
        constraints = [
            models.UniqueConstraint(fields=["draft", "number"], name="state_number_in_draft"),
        ]

    def read(self) -> Part:
        return part_from_json(self.data)
