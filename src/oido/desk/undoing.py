"""Take back what was done at the desk."""

import uuid

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import NotAllowed, for_teachers
from oido.marking import services
from oido.marking.at_desk import reports_changes, shown_state
from oido.marking.history import AlreadySeen, ChangedMeanwhile, Overtaken
from oido.marking.models import SheetChange
from oido.people.requests import Request
from oido.takes.queries import visible_takes

MAX_UNDONE = 500
SEEN = gettext_lazy("The student has read this mark already: it stays released. You can still change it.")
OVERTAKEN = gettext_lazy("This can no longer be undone: something was changed since.")


@only_post
@for_teachers
def undo(request: Request) -> HttpResponseBase:
    """Let marks stand as before; back to the take if it is one, else to the queue."""
    keys = [n for n in map(whole, request.POST.getlist("change")) if n is not None][:MAX_UNDONE]
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
@reports_changes
def take_back(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Take a release back, as long as the student has not read it."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    try:
        services.take_back_release(request.user, take, shown=shown_state(request))
    except AlreadySeen:
        messages.error(request, SEEN)
    except ChangedMeanwhile:
        raise
    except NotAllowed:
        messages.error(request, OVERTAKEN)
    else:
        messages.success(request, _("The mark is not released any more. It is still accepted."))
    return redirect("take", pk=pk)
