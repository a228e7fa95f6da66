"""A ladder while it is made: its rungs, what it was before, and what is done to it. The page holds it until it is saved."""

import json
from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _

from ear.errors import EarError, FormatError
from ear.notes import Part
from ear.practice.ladder import MAX_RUNGS, Ladder, Rung
from ear.practice.proposals import propose_ladder
from ear.text import term
from ear.words.phrases import describe_bars
from oido.common.problems import PageProblem
from oido.common.readers import PAGES

STEPS_KEPT = 30
"""Steps back that a page remembers."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LadderDraft:
    """`earlier` and `later` are what a step back and a step forward lead to, the nearest one last."""

    ladder: Ladder
    earlier: tuple[Ladder, ...] = ()
    later: tuple[Ladder, ...] = ()

    def to_text(self) -> str:
        """Return the draft as the text that the page keeps."""
        plain = {
            "rungs": self.ladder.to_json(),
            "earlier": [one.to_json() for one in self.earlier],
            "later": [one.to_json() for one in self.later],
        }
        return json.dumps(plain, separators=(",", ":"))

    @classmethod
    def from_text(cls, text: str, part: Part) -> "LadderDraft":
        """Return the draft that `to_text` wrote. Raise FormatError."""
        try:
            plain = json.loads(text)
            before, after = (
                tuple(Ladder.from_json(one, part) for one in plain[name][-STEPS_KEPT:])
                for name in ("earlier", "later")
            )
            return cls(ladder=Ladder.from_json(plain["rungs"], part), earlier=before, later=after)
        except (ValueError, KeyError, TypeError, RecursionError) as problem:
            raise FormatError(expected=term("a ladder"), actual=f"{problem}"[:60]) from problem

    def then(self, *rungs: Rung) -> "LadderDraft":
        """Return the draft with other rungs, and with a further undo step if they differ.

        Raise ValueOutOfRange if there are too many.
        """
        made = Ladder(rungs=rungs)
        if made == self.ladder:
            return self
        return LadderDraft(ladder=made, earlier=(*self.earlier, self.ladder)[-STEPS_KEPT:])

    def undone(self) -> "LadderDraft":
        if not self.earlier:
            return self
        *earlier, last = self.earlier
        return LadderDraft(ladder=last, earlier=tuple(earlier), later=(*self.later, self.ladder))

    def redone(self) -> "LadderDraft":
        if not self.later:
            return self
        *later, following = self.later
        return LadderDraft(ladder=following, earlier=(*self.earlier, self.ladder), later=tuple(later))

    def with_rung(self, at: int, rung: Rung) -> "LadderDraft":
        rungs = list(self.ladder.rungs)
        rungs[at] = rung
        return self.then(*rungs)

    def with_new(self, part: Part, first_bar: int, last_bar: int) -> "LadderDraft":
        """Return the draft with a rung over these bars at the end. Raise PageProblem if there is no room."""
        if len(self.ladder.rungs) == MAX_RUNGS:
            raise PageProblem(_("A ladder has up to %(n)s rungs.") % {"n": MAX_RUNGS})
        first, last = sorted(min(max(part.first_bar, bar), part.last_bar) for bar in (first_bar, last_bar))
        name = describe_bars((first, last), PAGES)
        return self.then(*self.ladder.rungs, Rung(name=name, first_bar=first, last_bar=last))

    def without(self, at: int) -> "LadderDraft":
        return self.then(*(rung for k, rung in enumerate(self.ladder.rungs) if k != at))

    def moved(self, at: int, by: int) -> "LadderDraft":
        rungs = list(self.ladder.rungs)
        rungs.insert(min(max(0, at + by), len(rungs) - 1), rungs.pop(at))
        return self.then(*rungs)

    def doubled(self, at: int) -> "LadderDraft":
        """Return the draft with a copy of a rung after it. Raise ValueOutOfRange if there are too many."""
        rungs = list(self.ladder.rungs)
        rungs.insert(at + 1, rungs[at])
        return self.then(*rungs)

    def propose_ladder(self, part: Part, *, is_free: bool = False) -> "LadderDraft":
        return self.then(*propose_ladder(part, is_free=is_free, reader=PAGES).rungs)


def draft_sent(data: Any, part: Part, stored: Ladder) -> LadderDraft:
    """Return the draft that the page sends, or the stored ladder if it cannot be read."""
    try:
        return LadderDraft.from_text(data.get("draft", ""), part)
    except EarError:
        return LadderDraft(ladder=stored)
