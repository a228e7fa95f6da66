"""Working copies of parts: stored states, and a place among them that undo and redo move."""

import hashlib
import json
import zlib
from collections.abc import Callable, Collection
from threading import Lock
from typing import Any, ClassVar

from cachetools import LRUCache, cached
from django.db import models
from django.db.models import Case, Value, When
from django.db.models.functions import Cast

from ear.editing.edited import Edited, Selection
from ear.formats.part_json import part_from_json, part_to_json
from ear.notes import Part
from ear.plain import to_text

Change = Callable[[Part, Selection], Edited]
TEXT = Cast("data", models.TextField())
"""A state as the text that is stored."""


class NotAsShown(Exception):
    """What lies here is not what the page shows on which something was done: it was changed from somewhere else meanwhile.
    Nothing is done."""


MAX_RECENT = 24
_recent: LRUCache[bytes, Part] = LRUCache(maxsize=MAX_RECENT)
_one_at_a_time = Lock()


def _key(text: str) -> bytes:
    return hashlib.sha256(text.encode()).digest()


@cached(_recent, key=_key, lock=_one_at_a_time)
def part_of_text(text: str) -> Part:
    """Return the part that is stored as a text; the same value again while it is one of the last that were asked for.

    Whoever works on a part asks for it many times a minute, and what is worked out from it (where its rows
    begin, how its chords are named) is kept with the part itself.
    """
    return part_from_json(json.loads(text))


class History(models.Model):
    """A working copy. Its states are `states`, each with a foreign key `history`."""

    states: ClassVar[Any]
    """Its own states: each history has rows of its own kind."""
    steps_kept: ClassVar[int | None] = None
    """So many steps can be undone; older states are dropped as new ones come, the first excepted. None keeps all."""

    position = models.PositiveIntegerField(default=0)
    """The number of the state that is worked on; higher ones can be done again."""
    selected = models.JSONField(default=list)
    """Notes by index in that state."""
    changed_at = models.DateTimeField(auto_now=True)

    state_id: int | None = None
    """The row of the state that is worked on, once it is read. A number may come again, with another part."""
    _acts: tuple[str | None, str | None] | None = None
    """What `acts` gives, where it was just done."""

    class Meta:
        abstract = True

    def state(self) -> Part:
        self.state_id, text = self.states.filter(number=self.position).values_list("pk", TEXT).get()
        return part_of_text(text)

    @property
    def shown(self) -> str:
        """What a page that draws it shows, in short: the state and what is picked, once the state is read."""
        return f"{self.state_id}.{zlib.crc32(json.dumps(self.selected).encode()):x}"

    def check_shown(self, seen: str) -> None:
        """Check that the page shows the current state.

        `seen` is `shown` of that page, or only the state if the selection does not matter. An empty `seen` is
        not checked. Raise NotAsShown.
        """
        if seen and not f"{self.shown}.".startswith(f"{seen}."):
            raise NotAsShown

    def stored(self, state_id: int) -> Part | None:
        """Return a state by its row, or None if it is no longer kept."""
        text = self.states.filter(pk=state_id).values_list(TEXT, flat=True).first()
        return None if text is None else part_of_text(text)

    def earlier(self, number: int) -> Part | None:
        """Return a state by its number, or None if it is no longer kept."""
        return self.parts({number}).get(number)

    def parts(self, numbers: Collection[int]) -> dict[int, Part]:
        """Return states by their numbers, without those no longer kept."""
        texts = self.states.filter(number__in=numbers).values_list("number", TEXT)
        return {number: part_of_text(text) for number, text in texts}

    def selection(self, part: Part) -> Selection:
        return frozenset(i for i in self.selected if 0 <= i < len(part.notes))

    def begin(self, part: Part) -> None:
        self._store(0, "", part)

    def _store(self, number: int, act: str, part: Part) -> None:
        text = to_text(part_to_json(part))
        made = self.states.create(number=number, act=act, data=Value(text, output_field=models.TextField()))
        self.state_id = made.pk
        with _one_at_a_time:
            _recent[_key(text)] = part

    def change(self, act: str, make: Change, *, seen: str = "") -> tuple[Part, Part]:
        """Change the part, and return it before and after.

        What was undone before can no longer be redone. If the part stays the same, only the selection is
        stored. Call this with the row locked. Raise NotAsShown if `seen` does not match (see `check_shown`).
        """
        from_here = self.states.filter(number__gte=self.position).order_by("number")
        (self.state_id, text), *later = from_here.values_list(
            "pk", Case(When(number=self.position, then=TEXT))
        )
        self.check_shown(seen)
        before = part_of_text(text)
        edited = make(before, self.selection(before))
        if edited.part != before:
            if later:
                from_here.filter(number__gt=self.position).delete()
            self.position += 1
            self._store(self.position, act, edited.part)
            self._acts = (act, None)
            if self.steps_kept is not None:
                self.states.filter(number__gt=0, number__lt=self.position - self.steps_kept).delete()
        self.selected = sorted(edited.selected)
        self.save()
        return before, edited.part

    def step(self, *, by: int, seen: str = "") -> Part:
        """Undo (-1) or redo (1), if there is anything, and return the part before. Raise NotAsShown as `change` does."""
        before = self.state()
        self.check_shown(seen)
        self._acts = None
        if self.states.filter(number=self.position + by).exists():
            self.position, self.selected = self.position + by, []
            self.save()
        return before

    def acts(self) -> tuple[str | None, str | None]:
        """Return the act that made this state, if it can be undone, and the one that could be redone."""
        if self._acts is not None:
            return self._acts
        near = self.states.filter(number__gte=self.position - 1, number__lte=self.position + 1)
        acts = dict(near.values_list("number", "act"))
        undone = acts[self.position] if self.position - 1 in acts else None
        return undone, acts.get(self.position + 1)


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
