"""Booklets: exercises in an order, with headings and text."""

from django.db import models
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.exercises.models import MAX_TITLE_LENGTH, Exercise
from oido.people.models import SchoolRow, User

MAX_TEXT_LENGTH = 4000
MAX_ITEMS = 60


class Booklet(SchoolRow):
    owner = models.ForeignKey(User, on_delete=models.PROTECT, related_name="booklets")
    title = models.CharField(pgettext_lazy("label", "title"), max_length=MAX_TITLE_LENGTH)
    text = models.TextField(_("before it"), blank=True, max_length=MAX_TEXT_LENGTH)
    is_shared = models.BooleanField(_("shared with colleagues"), default=True)
    made_at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["title", "id"]

    def __str__(self) -> str:
        return self.title


class Item(models.Model):
    """One exercise of a booklet, with what stands before it."""

    booklet = models.ForeignKey(Booklet, on_delete=models.CASCADE, related_name="items")
    exercise = models.ForeignKey(Exercise, on_delete=models.PROTECT, related_name="in_booklets")
    position = models.PositiveIntegerField()
    heading = models.CharField(_("heading"), max_length=MAX_TITLE_LENGTH, blank=True)
    text = models.TextField(_("text"), blank=True, max_length=MAX_TEXT_LENGTH)

    class Meta:
        ordering = ["booklet", "position", "id"]
