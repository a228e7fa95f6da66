"""An exercise as a sheet to print: notation with its labels, instructions, chord cards."""

import base64
from functools import cache
from typing import Any

from django.conf import settings
from django.template.loader import render_to_string

from ear.labels import Conventions
from ear.labels.chord_cards import chord_cards
from ear.notation.engraving import notation_svg
from oido.exercises.models import Exercise

SHEET_WIDTH = 700.0
"""px at 96 to the inch: A4 without its margins."""
CARDS_MOST = 12


@cache
def _printer() -> Any:
    # WeasyPrint takes longer to import than a page may take: only a process that prints waits for it.
    import weasyprint
    from weasyprint.urls import URLFetcher

    class OwnFiles(URLFetcher):
        """Fetches what stands in the sheet itself and our own fonts; nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            if url.startswith(("data:", fonts_url())):
                return super().fetch(url, headers)
            raise ValueError("a sheet fetches nothing")

    return weasyprint.HTML, OwnFiles


def fonts_url() -> str:
    return (settings.STATICFILES_DIRS[0] / "fonts").as_uri()


def sheet_pdf(exercise: Exercise, conventions: Conventions) -> bytes:
    """The exercise's part in force, as a PDF."""
    part = exercise.part_in_force.read()
    svg = notation_svg(part, width=SHEET_WIDTH, labels=exercise.shown_labels, conventions=conventions)
    context = {
        "exercise": exercise,
        "part": part,
        "notation": "data:image/svg+xml;base64," + base64.b64encode(for_print(svg).encode()).decode(),
        "cards": chord_cards(part, conventions=conventions)[:CARDS_MOST],
        "fonts": fonts_url(),
    }
    return write_pdf(render_to_string("exercises/printed.html", context))


def write_pdf(page: str) -> bytes:
    """HTML that fetches nothing but our fonts, on paper."""
    html, fetcher = _printer()
    pdf: bytes = html(string=page, url_fetcher=fetcher()).write_pdf()
    return pdf


def for_print(svg: str) -> str:
    """What a page's styles say of the drawing, written into it, in black: a printer knows no `currentColor`."""
    style = (
        "<style>ellipse,path,polygon,polyline,rect{stroke:black} .fing,.reh,.tempo{font-weight:bold}</style>"
    )
    return svg.replace("currentColor", "black").replace("<defs>", f"{style}<defs>", 1)
