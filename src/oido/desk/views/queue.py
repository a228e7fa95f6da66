"""The marking desk: the queue, going through it, accepting, releasing, asking for another take."""

import uuid
from itertools import groupby

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from django.views.decorators.http import require_GET

from oido.assignments.models import Assignment
from oido.assignments.queries import visible_assignments
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.marking import remeasuring, services
from oido.marking.at_desk import (
    changed_in_words,
    reports_changes,
    shown_state,
    shown_states,
    tell_of_left,
    to_send,
)
from oido.marking.forms import AskAgainForm
from oido.marking.history import ChangedMeanwhile
from oido.marking.queue import ACCEPTED, STATES, Queue, beside, light, queued, sort_cases
from oido.marking.several import accept_all, release_all
from oido.marking.undoing import offer_undo
from oido.people.conventions import reader_of
from oido.people.queries import classes_of
from oido.people.requests import Request
from oido.reports.views.report import report_context
from oido.takes.models import Take
from oido.takes.queries import visible_takes


@require_GET
@for_teachers
def marking(request: Request) -> HttpResponseBase:
    """What was handed in, as far as the address narrows it."""
    queue = Queue.of(request.GET)
    # First which, then what of them is shown: of those handed in, few wait.
    keys = list(queued(request.user, queue).values_list("pk", flat=True))
    takes_by_pk = {
        take.pk: take
        for take in light(visible_takes(request.user).prefetch_related(None)).filter(pk__in=keys)
    }
    takes = [takes_by_pk[key] for key in keys if key in takes_by_pk]
    groups = [
        (given, list(takes_by_pk)) for given, takes_by_pk in groupby(takes, key=lambda take: take.assignment)
    ]
    context = {
        "takes": takes, "groups": groups, "queue": queue, "states": STATES.items(),
        "classes": classes_of(request.user), "assignments": visible_assignments(request.user),
        "is_accepted": queue.state == ACCEPTED, "reader": reader_of(request.user),
        "remeasuring": remeasuring.going_on(), "shown": to_send(takes) if queue.state == ACCEPTED else [],
    }  # fmt: skip
    return render(request, "desk/queue.html", context)


@require_GET
@for_teachers
def measuring(request: Request) -> HttpResponseBase:
    """How far stored takes are measured again; nothing once they all are."""
    job = remeasuring.going_on()
    if job is None:
        return HttpResponse("")
    return render(request, "desk/_remeasuring.html", {"remeasuring": job})


def _next(request: Request, take: Take) -> HttpResponseBase:
    """The take after this one in the queue, or the queue where there is none. Asked before anything changes."""
    queue = Queue.of(request.GET)
    neighbours = beside(request.user, queue, take)
    # Past the last one, those that were passed over.
    following = neighbours.after or (neighbours.before if neighbours.number else None)
    where = reverse("take", args=[following]) if following else reverse("marking")
    return redirect(where + queue.address)


@only_post
@for_teachers
@reports_changes
def accept(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Be content and go on to the next; “release” in the data lets the student see it at once."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    following = _next(request, take)
    and_release = "release" in request.POST
    try:
        sheet = services.accept(request.user, take, and_release=and_release, shown=shown_state(request))
    except services.NotMarkedYet:
        messages.error(request, _("First give the hand-marked criteria a mark, or leave them out."))
        return redirect(reverse("take", args=[pk]) + Queue.of(request.GET).address)
    names = {"name": take.student.name, "title": take.assignment.exercise.title}
    message = (
        _("%(name)s can see the mark of “%(title)s” now.")
        if and_release
        else _("Accepted: %(name)s, “%(title)s”.")
    )
    offer_undo(request, message % names, [sheet])
    return following


@only_post
@for_teachers
@reports_changes
def ask_again(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Another take, with a word why; and on to the next."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    form = AskAgainForm(request.POST)
    if not form.is_valid():
        context = {**report_context(request, take), "ask_form": form, "asks": True}
        return render(request, "reports/report.html", context, status=422)
    following = _next(request, take)
    try:
        sheet = services.ask_again(
            request.user, take, why=form.cleaned_data["why"], shown=shown_state(request)
        )
    except ChangedMeanwhile as problem:
        take = get_object_or_404(visible_takes(request.user), pk=pk)
        if take.sheet.is_released:
            # There is nothing left to ask for, and no form to keep the reason in.
            raise
        context = {**report_context(request, take), "ask_form": form, "asks": True}
        context["changed"] = changed_in_words(problem)
        return render(request, "reports/report.html", context, status=422)
    offer_undo(
        request, _("%(name)s was asked to record another take.") % {"name": take.student.name}, [sheet]
    )
    return following


@only_post
@for_teachers
def release_accepted(request: Request) -> HttpResponseBase:
    """Release all takes of a queue that are accepted."""
    queue = Queue.of(request.GET)
    takes = queued(
        request.user, Queue(state=ACCEPTED, assignment=queue.assignment, school_class=queue.school_class)
    )
    released = release_all(request.user, takes, shown_states(request))
    count = len(released.done)
    message = ngettext("One mark is released.", "%(n)s marks are released.", count) % {"n": count}
    offer_undo(request, message, released.done)
    tell_of_left(request, len(released.changed))
    if released.unmarked:
        left = ngettext(
            "One take is waiting again: its rubric asks for something that you mark by hand. Open it and mark that first.",
            "%(n)s takes wait again: their rubric asks for something that you mark by hand. Open them and mark that "
            "first.",
            len(released.unmarked),
        )
        messages.error(request, left % {"n": len(released.unmarked)})
    return redirect("marking")


@require_GET
@for_teachers
def clear_cases(request: Request, pk: int) -> HttpResponseBase:
    """A class's takes sorted into clear cases and those to be looked at."""
    assignment = _get_assignment(request, pk)
    cases = sort_cases(request.user, assignment)
    context = {
        "assignment": assignment, "cases": cases, "shown": to_send([case.take for case in cases.to_accept]),
    }  # fmt: skip
    return render(request, "desk/clear_cases.html", context)


@only_post
@for_teachers
def accept_clear(request: Request, pk: int) -> HttpResponseBase:
    """Accept the mark straightforward takes together, once the spot checks are made."""
    assignment = _get_assignment(request, pk)
    cases = sort_cases(request.user, assignment)
    if cases.spots_open:
        messages.error(request, _("The spot checks come first."))
        return redirect("clear-cases", pk=pk)
    to_accept = [case.take for case in cases.to_accept]
    sheets, left = accept_all(request.user, to_accept, shown_states(request))
    message = ngettext("One take is accepted.", "%(n)s takes are accepted.", len(sheets)) % {"n": len(sheets)}
    offer_undo(request, message, sheets)
    tell_of_left(request, len(left))
    return redirect("clear-cases", pk=pk)


def _get_assignment(request: Request, pk: int) -> Assignment:
    return get_object_or_404(visible_assignments(request.user).select_related("rubric"), pk=pk)
