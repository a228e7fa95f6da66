"""Exercises and the history of their target parts."""

from django.db import models
from django.utils.translation import gettext_lazy as _

from ear.formats.part_json import part_from_json
from ear.marking.levels import DEFAULT_LEVEL, LEVELS
from ear.notes import Part
from oido.people.models import School, User


class KindChoice(models.TextChoices):
    KEYBOARD = "keyboard", _("Keyboard")
    DRUMS = "drums", _("Drums")


class Exercise(models.Model):
    """What a teacher sets: a target part with instructions and recording rules."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="exercises")
    owner = models.ForeignKey(User, on_delete=models.PROTECT, related_name="exercises")
    title = models.CharField(_("title"), max_length=120)
    kind = models.CharField(_("kind"), max_length=10, choices=KindChoice.choices)
    instructions = models.TextField(_("instructions"), blank=True, max_length=4000)
    tempo_bpm = models.DecimalField(_("tempo"), max_digits=5, decimal_places=2)
    count_in_bars = models.PositiveSmallIntegerField(_("count-in bars"), default=1)
    level = models.CharField(
        _("level"),
        max_length=20,
        default=DEFAULT_LEVEL.key,
        choices=[(level.key, level.name) for level in LEVELS.values()],
    )
    created_at = models.DateTimeField(auto_now_add=True)
    part = models.OneToOneField("TargetPart", on_delete=models.PROTECT, null=True, related_name="current_of")
    """The part in force; older ones stay, for the takes that were recorded against them."""

    class Meta:
        ordering = ["title", "id"]

    def __str__(self) -> str:
        return self.title


class TargetPart(models.Model):
    """One state of an exercise's target part. Never changed once it is stored."""

    exercise = models.ForeignKey(Exercise, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    data = models.JSONField()
    """As `ear.formats.part_json` writes it."""
    source_name = models.CharField(max_length=200, blank=True)
    source_file = models.BinaryField(null=True)
    """The imported file, as it came."""
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["exercise", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["exercise", "number"], name="part_number_in_exercise"),
        ]

    def read(self) -> Part:
        return part_from_json(self.data)
