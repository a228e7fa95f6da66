"""The page of music on the Bench: drawn whole once, then row by row as it changes."""

from collections.abc import Collection
from dataclasses import dataclass

from ear.drawing.boxes import PageView
from ear.drawing.changes import changed_rows, row_starts
from ear.drawing.page import page_view
from ear.editing.comparing import compare
from ear.labels import Conventions, LabelKind
from ear.notes import Part
from oido.exercises.pages import PAGE_WIDTH


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """How a teacher has the part drawn."""

    labels: frozenset[LabelKind]
    conventions: Conventions
    origin: Part | None = None
    """Of a variation, the part that it came from."""

    def page(
        self, part: Part, *, only: Collection[int] | None = None, new: Collection[int] | None = None
    ) -> PageView:
        """With its Weight strip; `only` draws just these rows, `new` are notes that are not there yet."""
        if new is None:
            new = compare(self.origin, part).new if self.origin is not None else ()
        return page_view(
            part,
            width=PAGE_WIDTH,
            labels=self.labels,
            conventions=self.conventions,
            with_weight=True,
            new_notes=new,
            only=only,
        )

    def changes(self, before: Part, after: Part) -> frozenset[int] | None:
        """Rows that another state of the part draws anew; None for all."""
        return changed_rows(before, after, width=PAGE_WIDTH, labels=self.labels, has_strips=True)


def note_starts(part: Part) -> list[int]:
    """For each row the note with which it begins."""
    return row_starts(part, width=PAGE_WIDTH, has_strips=True)
