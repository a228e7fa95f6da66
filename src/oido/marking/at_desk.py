"""Acts at the desk are done only to a mark in the state that the teacher's page showed."""

import uuid
from collections.abc import Iterable, Sequence
from contextlib import suppress
from functools import wraps
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.defaultfilters import date
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from oido.common.permissions import View
from oido.marking.history import ChangedMeanwhile, states_of
from oido.marking.models import SheetChange
from oido.marking.queue import Queue
from oido.people.requests import Request
from oido.takes.models import Take


def shown_state(request: Request) -> str:
    """Return the state of the mark that the page showed, as the page sent it; empty, and so refused, where it sent
    none."""
    return str(request.POST.get("state", ""))


def shown_states(request: Request) -> dict[uuid.UUID, str]:
    """Return the states of the marks that a list showed, by take, as the page sent them; broken ones are left out."""
    states = {}
    for pair in request.POST.getlist("shown"):
        key, _space, state = pair.partition(" ")
        with suppress(ValueError):
            states[uuid.UUID(key)] = state
    return states


def to_send(takes: Sequence[Take]) -> list[str]:
    """Return what a list sends along to act on these takes, one `shown` field for each."""
    return [f"{key} {state}" for key, state in states_of(takes).items()]


def tell_of_left(request: Request, count: int) -> None:
    """Say how many takes of a list were left because they are not as the page showed them."""
    if count:
        message = ngettext(
            "%(n)s take was left, because its mark has changed since you opened the page.",
            "%(n)s takes were left, because their marks have changed since you opened the page.",
            count,
        )
        messages.error(request, message % {"n": count})


def changed_in_words(problem: ChangedMeanwhile) -> str:
    """Say that nothing was done, and what was done to the mark since the page was loaded."""
    if not problem.since:
        return _(
            "The mark has changed since you opened this page, so nothing was done. Look at it and try again."
        )
    return _("Nothing was done, because the mark has changed since you opened this page: %(changes)s.") % {
        "changes": "; ".join(_in_words(problem.since))
    }


def _in_words(changes: Iterable[SheetChange]) -> Iterable[str]:
    for change in changes:
        message = {
            "name": change.by.name,
            "what": change.get_kind_display(),
            "time": date(timezone.localtime(change.made_at), "H:i"),
        }
        yield _("%(what)s by %(name)s at %(time)s") % message


def reports_changes(view: View) -> View:
    """Wrap a view of one take that raises ChangedMeanwhile: the teacher gets the take as it is now, with what changed."""

    @wraps(view)
    def wrapped(request: Any, pk: Any, *args: Any, **kwargs: Any) -> Any:
        try:
            return view(request, pk, *args, **kwargs)
        except ChangedMeanwhile as problem:
            messages.error(request, changed_in_words(problem))
            if getattr(request, "htmx", False):
                return HttpResponse(headers={"HX-Refresh": "true"})
            return redirect(reverse("take", args=[pk]) + Queue.of(request.GET).address)

    return wrapped
