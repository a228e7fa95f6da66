"""Say what was done with marks, with a way back beside it."""

from collections.abc import Iterable

from django.http import HttpRequest
from django.urls import reverse

from oido.common.undo import with_undo
from oido.marking.models import MarkSheet


def offer_undo(request: HttpRequest, message: str, sheets: Iterable[MarkSheet]) -> None:
    """Say what was done, with a way back if the act changed anything: only what it did itself is offered to be undone."""
    changes = sorted(sheet.line.pk for sheet in sheets if sheet.line is not None)
    with_undo(request, message, reverse("undo-marking") if changes else "", {"change": changes})
