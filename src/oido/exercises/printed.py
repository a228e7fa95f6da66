"""An exercise as a sheet to print: notation with its labels, instructions, chord cards."""

import base64
from collections.abc import Sequence
from functools import cache
from typing import Any

from django.conf import settings
from django.template.loader import render_to_string

from ear.conventions import Conventions
from ear.labels.chord_cards import chord_cards
from ear.notation.engraving import notation_svg
from oido.common.readers import reader_with
from oido.exercises.asked import asked
from oido.exercises.models import Exercise

SHEET_WIDTH = 700.0
"""px at 96 to the inch: A4 without its margins."""
MAX_CARDS = 12


@cache
def _printer() -> Any:
    # WeasyPrint takes longer to import than a page may take: only a process that prints waits for it.
    import weasyprint
    from weasyprint.urls import URLFetcher

    class OwnFiles(URLFetcher):  # type: ignore[misc]  # its package has no types
        """Fetches what stands in the sheet itself and our own fonts; nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            if url.startswith(("data:", fonts_url())):
                return super().fetch(url, headers)
            raise ValueError("a sheet fetches nothing")

    return weasyprint.HTML, OwnFiles


def fonts_url() -> str:
    return str(settings.TYPEFACES.as_uri())


def sheet_pdf(exercise: Exercise, conventions: Conventions) -> bytes:
    """Return the exercise's current part as a PDF."""
    pdf: bytes = sheet_document(exercise, conventions).write_pdf()
    return pdf


def sheet_document(
    exercise: Exercise,
    conventions: Conventions,
    *,
    heading: str = "",
    text: str = "",
    first_page: int | None = None,
) -> Any:
    """Return the sheet's pages, to be written alone or with others.

    `first_page` is the first page number within a booklet; the heading and the text come before the music
    there.
    """
    part = exercise.part_in_force.read()
    notation = ""
    if part.notes:
        svg = notation_svg(
            part,
            width=SHEET_WIDTH,
            labels=exercise.shown_labels,
            reader=reader_with(conventions),
            as_written=True,
        )
        notation = "data:image/svg+xml;base64," + base64.b64encode(for_print(svg).encode()).decode()
    context = {
        "exercise": exercise,
        "part": part,
        "spec": exercise.part_in_force.spec,
        "asked": asked(exercise.part_in_force.spec),
        "notation": notation,
        "cards": chord_cards(part, conventions=conventions)[:MAX_CARDS] if part.notes else (),
        "fonts": fonts_url(),
        "heading": heading,
        "text": text,
        "page_before": None if first_page is None else first_page - 1,
    }
    return document_of(render_to_string("exercises/printed.html", context))


def document_of(page: str) -> Any:
    """Return HTML laid out in pages. It fetches nothing but our fonts."""
    html, fetcher = _printer()
    return html(string=page, url_fetcher=fetcher()).render()


def write_pdf(page: str) -> bytes:
    """Return HTML as a PDF. It fetches nothing but our fonts."""
    pdf: bytes = document_of(page).write_pdf()
    return pdf


def write_together(documents: Sequence[Any]) -> bytes:
    """Return the pages of several documents as one PDF."""
    first = documents[0]
    pdf: bytes = first.copy([page for one in documents for page in one.pages]).write_pdf()
    return pdf


def for_print(svg: str) -> str:
    """Return a drawing with its styles written into it in black, because the PDF writer does not know
    `currentColor`.
    """
    style = (
        "<style>ellipse,path,polygon,polyline,rect{stroke:black} .fing,.reh,.tempo{font-weight:bold}</style>"
    )
    return svg.replace("currentColor", "black").replace("<defs>", f"{style}<defs>", 1)
