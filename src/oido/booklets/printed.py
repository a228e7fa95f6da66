"""A booklet on paper: a page of contents, then each exercise's sheet."""

from typing import Any

from django.template.loader import render_to_string

from ear.conventions import Conventions
from oido.booklets.models import Booklet, Item
from oido.booklets.queries import items_of
from oido.exercises.printed import document_of, fonts_url, sheet_document, write_together


def booklet_pdf(booklet: Booklet, conventions: Conventions) -> bytes:
    """Return the booklet as a PDF.

    Pages are numbered throughout, and the contents name the page of each exercise.
    """
    items = items_of(booklet)

    def sheet(item: Item, first_page: int) -> Any:
        return sheet_document(
            item.exercise, conventions, heading=item.heading, text=item.text, first_page=first_page
        )

    def contents(rows: list[tuple[Item, int]]) -> Any:
        context = {"booklet": booklet, "rows": rows, "fonts": fonts_url()}
        return document_of(render_to_string("booklets/contents.html", context))

    # How long the contents are is known before the numbers in them are.
    page = len(contents([(item, 0) for item in items]).pages) + 1
    sheets, rows = [], []
    for item in items:
        made = sheet(item, page)
        rows.append((item, page))
        sheets.append(made)
        page += len(made.pages)
    return write_together([contents(rows), *sheets])
