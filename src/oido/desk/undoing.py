"""Take back what was done at the desk."""

import uuid
from collections.abc import Iterable

from django.contrib import messages
from django.http import HttpRequest, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import NotAllowed, for_teachers
from oido.common.undo import with_undo
from oido.marking import services
from oido.marking.history import AlreadySeen, Overtaken
from oido.marking.models import MarkSheet, SheetChange
from oido.people.requests import Request
from oido.takes.queries import visible_takes

UNDONE_MOST = 500
SEEN = gettext_lazy("The student has read this mark already: it stays released. You can still change it.")
OVERTAKEN = gettext_lazy("Something else was done since, so this stays as it is now.")


def offer_undo(request: HttpRequest, said: str, sheets: Iterable[MarkSheet]) -> None:
    """Say what was done, with a way back if there is one: the last line of each sheet's history."""
    keys = [sheet.pk for sheet in sheets]
    last: dict[int, int] = {}
    rows = SheetChange.objects.filter(sheet__in=keys, is_undone=False).order_by("pk")
    for pk, sheet in rows.values_list("pk", "sheet"):
        last[sheet] = pk
    with_undo(request, said, reverse("undo-marking") if last else "", {"change": sorted(last.values())})


@only_post
@for_teachers
def undo(request: Request) -> HttpResponseBase:
    """Let marks stand as before; back to the take if it is one, else to the queue."""
    keys = [n for n in map(whole, request.POST.getlist("change")) if n is not None][:UNDONE_MOST]
    takes = visible_takes(request.user).order_by()
    changes = list(
        SheetChange.objects.filter(pk__in=keys, sheet__take__in=takes.values("pk")).select_related(
            "sheet__take"
        )
    )
    back = redirect("take", pk=changes[0].sheet.take_id) if len(changes) == 1 else redirect("marking")
    try:
        services.undo(request.user, changes)
    except AlreadySeen:
        messages.error(request, SEEN)
    except Overtaken:
        messages.error(request, OVERTAKEN)
    else:
        messages.success(request, _("Undone.") if changes else _("There is nothing to undo."))
    return back


@only_post
@for_teachers
def take_back(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Take a release back, as long as the student has not read it."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    try:
        services.take_back_release(request.user, found)
    except AlreadySeen:
        messages.error(request, SEEN)
    except NotAllowed:
        messages.error(request, OVERTAKEN)
    else:
        messages.success(request, _("The mark is not released any more. It is still accepted."))
    return redirect("take", pk=pk)
