"""A sheet for the music desk: the things to do after a take, each with its bars in notation and a box for every day."""

import base64
from dataclasses import dataclass
from typing import Any

from django.template.loader import render_to_string
from django.utils.translation import gettext as _

from ear.labels import LabelKind
from ear.notation.engraving import notation_svg
from ear.reader import Reader
from oido.exercises.printed import SHEET_WIDTH, fonts_url, for_print, write_pdf
from oido.feedback.things_to_do import ToDo, things_to_do
from oido.takes.models import Take

LABELS = frozenset({LabelKind.FINGERS, LabelKind.CHORDS})
MAX_BARS = 8
"""Of one thing to do: so many bars are still practised as one."""
DAYS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetItem:
    """One thing to do with its bars drawn; without bars where they are all of the piece, or more than are read at a glance."""

    to_do: ToDo
    notation: str
    """An address with the drawing in it; empty for none."""


def practice_sheet_pdf(take: Take, reader: Reader) -> bytes:
    """Return the sheet for the student of a take as a PDF, in the reader's conventions."""
    context: dict[str, Any] = {
        "take": take,
        "items": [
            SheetItem(to_do=to_do, notation=_notation(take, to_do, reader))
            for to_do in things_to_do(take.student, take, reader)
        ],
        "days": range(DAYS),
        "fonts": fonts_url(),
        "foot": _("%(name)s, %(title)s") % {"name": take.student.name, "title": take.exercise.title},
    }
    return write_pdf(render_to_string("reports/practice_sheet.html", context))


def _notation(take: Take, to_do: ToDo, reader: Reader) -> str:
    if to_do.bars is None or take.part.free is not None:
        return ""
    first, last = to_do.bars
    if last - first >= MAX_BARS:
        return ""
    part = take.page()
    svg = notation_svg(
        part, width=SHEET_WIDTH, labels=LABELS, reader=reader, bars=range(first, last + 1),
        seed=to_do.number,
    )  # fmt: skip
    return "data:image/svg+xml;base64," + base64.b64encode(for_print(svg).encode()).decode()
