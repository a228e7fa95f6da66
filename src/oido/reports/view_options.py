"""How a report is looked at: how many rows a page, whose notes, which outcomes. It stands in the address."""

from dataclasses import dataclass
from typing import Any

from django.http import QueryDict
from django.utils.functional import Promise
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from ear.criteria.score import Verdict
from ear.criteria.table import VERDICT_NAMES as NAMES
from ear.drawing.verdicts import Selection
from oido.common.numbers import whole
from oido.common.readers import promise
from oido.common.screen import PAGE_WIDTH
from oido.exercises.pages import voices_of
from oido.reports.analysed_take import AnalysedTake

ROWS_A_PAGE = (2, 3, 4, 6, 8)
NATURAL_ROWS = 3
"""Rows of a keyboard take that fill a page as they are drawn."""
VERDICT_NAMES: dict[Verdict, Promise] = {key: promise(name) for key, name in NAMES.items()}


def voice_name(voice: str) -> Any:
    return {"right": _("right hand"), "left": _("left hand")}.get(voice) or gettext(voice)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportView:
    """`voices` are those of the part, `passes` those of the take: with one there is nothing to choose."""

    rows: int
    selection: Selection
    voices: list[str]
    passes: int
    laid: int | None
    """The pass that is looked at, counted from 1; None for all."""
    screen: float
    """The width of a drawing of the natural size, in units of a pixel."""

    @classmethod
    def of(cls, query: QueryDict, analysed: AnalysedTake, *, screen: float = PAGE_WIDTH) -> "ReportView":
        """Return the view options that an address names. Missing or wrong values take their defaults; `screen` is the width
        at which music is drawn for the reader's window."""
        asked, wanted = query.get("rows", ""), query.get("pass", "")
        voices, passes = voices_of(analysed.part), 1 + len(analysed.take.kept_passes)
        laid = whole(wanted)
        if laid is None or not 1 <= laid <= passes or passes == 1:
            laid = None
        rows = whole(asked)
        voice, verdict = query.get("of", ""), query.get("show", "")
        return cls(
            rows=rows if rows is not None and rows in ROWS_A_PAGE else NATURAL_ROWS,
            selection=Selection(
                voice=voice if voice in voices else None,
                verdict=next((known for known in VERDICT_NAMES if known == verdict), None),
                takes=None if laid is None else analysed.notes_of_pass(laid),
            ),
            voices=voices,
            passes=passes,
            laid=laid,
            screen=screen,
        )

    @property
    def width(self) -> float:
        """Of the drawing: the wider, the smaller it looks and the more rows stand on a page."""
        return self.screen * self.rows / NATURAL_ROWS

    @property
    def query(self) -> str:
        """For an address; empty as usual."""
        query = QueryDict(mutable=True)
        if self.rows != NATURAL_ROWS:
            query["rows"] = str(self.rows)
        if self.selection.voice:
            query["of"] = self.selection.voice
        if self.selection.verdict:
            query["show"] = self.selection.verdict
        if self.laid:
            query["pass"] = str(self.laid)
        if self.screen != PAGE_WIDTH:
            # Rows that come later fit those that are there, also when a device has been turned.
            query["width"] = f"{self.screen:.0f}"
        return query.urlencode()

    @property
    def pass_choices(self) -> list[tuple[int, bool]]:
        return [(n, n == self.laid) for n in range(1, self.passes + 1)] if self.passes > 1 else []

    @property
    def row_choices(self) -> list[tuple[int, bool]]:
        return [(n, n == self.rows) for n in ROWS_A_PAGE]

    @property
    def voice_choices(self) -> list[tuple[str, Any, bool]]:
        return [(voice, voice_name(voice), voice == self.selection.voice) for voice in self.voices]

    @property
    def verdict_choices(self) -> list[tuple[str, Promise, bool]]:
        return [(key, name, key == self.selection.verdict) for key, name in VERDICT_NAMES.items()]
