"""Say what was done with marks, with a way back beside it."""

from collections.abc import Iterable

from django.http import HttpRequest
from django.urls import reverse

from oido.common.undo import with_undo
from oido.marking.models import MarkSheet, SheetChange


def offer_undo(request: HttpRequest, said: str, sheets: Iterable[MarkSheet]) -> None:
    """Say what was done, with a way back if there is one: the last line of each sheet's history."""
    keys = [sheet.pk for sheet in sheets]
    last: dict[int, int] = {}
    rows = SheetChange.objects.filter(sheet__in=keys, is_undone=False).order_by("pk")
    for pk, sheet in rows.values_list("pk", "sheet"):
        last[sheet] = pk
    with_undo(request, said, reverse("undo-marking") if last else "", {"change": sorted(last.values())})
