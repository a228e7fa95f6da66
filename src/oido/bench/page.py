"""The page of music on the Bench: drawn whole once, then row by row as it changes.

Of many rows those in view are drawn at once. The others come as boxes with their bars, and are drawn right after, a few at
a time: what a teacher waits for is what can be seen.
"""

import re
from collections.abc import Collection
from dataclasses import dataclass

from django.http import HttpRequest

from ear.conventions import Conventions
from ear.drawing.boxes import PageRow, PageView
from ear.drawing.changes import changed_rows, row_starts
from ear.drawing.page import page_rows, page_view
from ear.drawing.rows import RowBox
from ear.editing.comparing import compare
from ear.labels import LabelKind
from ear.notes import Part
from oido.common.readers import reader_with
from oido.common.screen import PAGE_WIDTH

AT_ONCE = 6
"""So many rows are drawn in any case: more than a window shows."""
ROW_HEIGHT = 200.0
"""px, where no row that is drawn says how high they are."""
NARROW_WIDTH = 430.0
"""px of the drawing on a screen on which a whole page's width could not be pointed at: fewer bars stand in a row."""
LAYOUTS = {"wide": PAGE_WIDTH, "narrow": NARROW_WIDTH}
LAYOUT_HEADER, LAYOUT_COOKIE = "Page-Layout", "page-layout"
"""With each request the page says how it is laid out; one that is opened, how the last one was."""
SEEN_HEADER = "Rows-Seen"
"""With each request the page says which rows are in view: the first and the last of them."""
_SEEN = re.compile(r"(\d{1,5})-(\d{1,5})")
_NUMBERS = re.compile(r"\d{1,5}(,\d{1,5})*")


@dataclass(frozen=True, slots=True, kw_only=True)
class RowOnPage:
    """A row as it is sent: drawn, or its box alone."""

    box: RowBox
    first_note: int
    """The note, by index, with which it begins."""
    drawn: PageRow | None
    """None where its notes come later."""
    height: float
    """px; of a row that comes later, as high as the others are."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """What is sent of a page: the whole of it, or rows that take the places of others."""

    page: PageView | None
    """As far as it is drawn; None where no row is."""
    rows: tuple[RowOnPage, ...]
    is_whole: bool
    width: float

    @property
    def has_late(self) -> bool:
        """Is there any row whose notes come later?"""
        return any(row.drawn is None for row in self.rows)


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchView:
    """How a teacher has the part drawn."""

    labels: frozenset[LabelKind]
    conventions: Conventions
    origin: Part | None = None
    """Of a variation, the part that it came from."""
    layout: str = "wide"
    """One of `LAYOUTS`."""

    @property
    def width(self) -> float:
        """px of the drawing."""
        return LAYOUTS[self.layout]

    def page(
        self, part: Part, *, only: Collection[int] | None = None, new: Collection[int] | None = None
    ) -> PageView:
        """Return the page of music with its Weight strip.

        `only` draws just these rows; `new` names notes to be shown as new.
        """
        if new is None:
            new = compare(self.origin, part).new if self.origin is not None else ()
        return page_view(
            part,
            width=self.width,
            labels=self.labels,
            reader=reader_with(self.conventions),
            with_weight=True,
            new_notes=new,
            only=only,
        )

    def changes(self, before: Part, after: Part) -> frozenset[int] | None:
        """Return the rows to redraw for another state of the part, or None for all."""
        return changed_rows(before, after, width=self.width, labels=self.labels, has_strips=True)

    def drawing(
        self,
        part: Part,
        rows: Collection[int] | None,
        *,
        seen: range | None,
        new: Collection[int] | None = None,
    ) -> Drawing:
        """Return the drawing of these rows (None: the whole page).

        Rows in `seen` are drawn at once. With `seen` None, or few rows, all are.
        """
        boxes = page_rows(part, width=self.width, has_strips=True)
        starts = self.note_starts(part)
        wanted = range(len(boxes)) if rows is None else sorted(k for k in rows if k < len(boxes))
        is_at_once = seen is None or len(wanted) <= AT_ONCE
        now = [k for k in wanted if is_at_once or (seen is not None and k in seen)]
        page = self.page(part, only=now, new=new) if now else None
        drawn = {row.box.index: row for row in page.rows} if page else {}
        height = page.height / len(page.rows) if page else ROW_HEIGHT
        return Drawing(
            page=page,
            rows=tuple(
                RowOnPage(
                    box=boxes[k],
                    first_note=starts[k],
                    drawn=drawn.get(k),
                    height=drawn[k].height if k in drawn else height,
                )
                for k in wanted
            ),
            is_whole=rows is None,
            width=self.width,
        )

    def note_starts(self, part: Part) -> list[int]:
        """Return, for each row, the note with which it begins."""
        return row_starts(part, width=self.width, has_strips=True)


def layout_of(request: HttpRequest) -> str:
    """Return the page layout that the request states, or that is opened first."""
    layout = request.headers.get(LAYOUT_HEADER) or request.COOKIES.get(LAYOUT_COOKIE, "")
    return layout if layout in LAYOUTS else "wide"


def seen_rows(request: HttpRequest) -> range | None:
    """Return the rows in view where the request comes from, or None if it does not say."""
    match = _SEEN.fullmatch(request.headers.get(SEEN_HEADER, ""))
    return range(int(match[1]), int(match[2]) + 1) if match else None


def asked_rows(request: HttpRequest) -> list[int]:
    """Return the rows to draw now, at most `AT_ONCE`."""
    text = request.GET.get("rows", "")
    return [int(one) for one in text.split(",")][:AT_ONCE] if _NUMBERS.fullmatch(text) else []
