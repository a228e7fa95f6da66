"""Marks, what teachers changed in them, and remarks."""

from django.db import models
from django.utils.translation import gettext_lazy as _

from oido.people.models import User
from oido.takes.models import Take


class MarkSheet(models.Model):
    """The mark of one take. The machine's figures stay in the take's measurement.

    `changes` holds the teacher's own scores by criterion, {"timing": {"score": 80, "why": "…"}}.
    """

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="sheet")
    changes = models.JSONField(default=dict)
    total = models.FloatField()
    """After the changes; kept for lists."""
    band = models.CharField(max_length=60)
    released_at = models.DateTimeField(null=True)
    released_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")

    @property
    def is_released(self) -> bool:
        return self.released_at is not None


class Remark(models.Model):
    """What a teacher writes about a take: pinned to a bar and beat, or to the whole take."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="remarks")
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="remarks")
    bar = models.PositiveIntegerField(_("bar"), null=True, blank=True)
    beat = models.PositiveIntegerField(_("beat"), null=True, blank=True)
    text = models.TextField(_("remark"), max_length=2000)
    written_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["bar", "beat", "id"]
