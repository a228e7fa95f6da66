"""Working copies of parts: stored states, and a place among them that undo and redo move."""

from collections.abc import Callable
from typing import Any, ClassVar

from django.db import models

from ear.editing.edited import Edited, Selection
from ear.formats.part_json import part_from_json, part_to_json
from ear.notes import Part

Change = Callable[[Part, Selection], Edited]


class History(models.Model):
    """A working copy. Its states are `states`, each with a foreign key `history`."""

    states: ClassVar[Any]
    """Its own states: each history has rows of its own kind."""

    position = models.PositiveIntegerField(default=0)
    """The number of the state that is worked on; higher ones can be done again."""
    selected = models.JSONField(default=list)
    """Notes by index in that state."""
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        abstract = True

    def state(self) -> Part:
        found: Part = self.states.get(number=self.position).read()
        return found

    def selection(self, part: Part) -> Selection:
        return frozenset(i for i in self.selected if 0 <= i < len(part.notes))

    def begin(self, part: Part) -> None:
        self.states.create(number=0, data=part_to_json(part))

    def change(self, act: str, make: Change) -> tuple[Part, Part]:
        """The part before and after. What had been taken back before is gone then; where the change
        leaves the part as it is, nothing is stored but the selection. To be called with the row locked."""
        before = self.state()
        edited = make(before, self.selection(before))
        if edited.part != before:
            self.states.filter(number__gt=self.position).delete()
            self.position += 1
            self.states.create(number=self.position, act=act, data=part_to_json(edited.part))
        self.selected = sorted(edited.selected)
        self.save()
        return before, edited.part

    def step(self, *, by: int) -> Part:
        """Take back (-1) or do again (1), as far as there is anything; the part before."""
        before = self.state()
        if self.states.filter(number=self.position + by).exists():
            self.position, self.selected = self.position + by, []
            self.save()
        return before

    def acts(self) -> tuple[str, str | None]:
        """The tool that made this state, and the one that could be done again."""
        near = self.states.filter(number__gte=self.position, number__lte=self.position + 1)
        acts = dict(near.values_list("number", "act"))
        return acts[self.position], acts.get(self.position + 1)


class HistoryState(models.Model):
    """One state of a working copy. Never changed once it is stored."""

    number = models.PositiveIntegerField()
    act = models.CharField(max_length=40, blank=True)
    """The tool that made it, by its slug."""
    data = models.JSONField()
    """As `ear.formats.part_json` writes it."""

    class Meta:
        abstract = True
        ordering = ["history", "number"]

    def read(self) -> Part:
        return part_from_json(self.data)
