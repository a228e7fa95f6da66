"""What teachers do with the figures of a take: change scores, mark by hand, try other settings."""

import uuid
from typing import Any

from django.http import Http404, HttpRequest, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from ear.judging.judgement import Criterion
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.marking import remeasuring, services
from oido.marking.forms import ScoreForm, TryForm
from oido.marking.trial_settings import make_try_form, tried
from oido.reports.reading import Reading
from oido.reports.views.report import mark_context
from oido.rubrics.labels import criterion_label
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.queries import visible_takes


def fresh(request: HttpRequest, found: Take) -> Take:
    """The take with all that is stored of it now."""
    return get_object_or_404(visible_takes(request.user), pk=found.pk)


def _marked(request: HttpRequest, pk: uuid.UUID) -> Take:
    """A take whose mark can be worked on: one that cannot be read is measured again first."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    if not judged(found).is_readable:
        raise Http404
    return found


def answer_mark(request: HttpRequest, found: Take, *, status: int = 200, **more: Any) -> HttpResponseBase:
    """The mark alone for htmx; the whole report for those without."""
    if not request.htmx and status == 200:
        return redirect("take", pk=found.pk)
    context = {**mark_context(request, Reading(fresh(request, found))), **more}
    return render(request, "reports/_mark.html", context, status=status)


@require_http_methods(["GET", "POST"])
@for_teachers
def change_score(request: HttpRequest, pk: uuid.UUID, criterion: str) -> HttpResponseBase:
    """Change one criterion, or (`back`) give the machine's figure back."""
    found = _marked(request, pk)
    row = _row(found, criterion)
    if request.method == "POST" and "back" in request.POST:
        services.give_score(request.user, found, criterion, None)
        return answer_mark(request, found)
    form = ScoreForm(request.POST or None, hand=row.hand, given=row.given, score=row.score)
    if request.method == "POST" and form.is_valid():
        services.give_score(request.user, found, criterion, form.given())
        return answer_mark(request, found)
    return answer_mark(
        request, found, status=422 if request.method == "POST" else 200, editing=row, score_form=form,
        editing_label=criterion_label(criterion, judged(found).rubric),
    )  # fmt: skip


def _row(found: Take, criterion: str) -> Criterion:
    row = judged(found).judgement.criterion(criterion)
    if row is None:
        raise Http404
    return row


@only_post
@for_teachers
def give_help(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    found = _marked(request, pk)
    step = whole(request.POST.get("help", ""))
    if step is None or not 0 <= step < len(judged(found).rubric.help):
        step = None
    services.give_help(request.user, found, step)
    return answer_mark(request, found)


@require_http_methods(["GET", "POST"])
@for_teachers
def try_settings(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """The mark by other settings, to be looked at; “keep” in the data keeps them for this take."""
    found = _marked(request, pk)
    form: TryForm = make_try_form(found, request.POST or None)
    if request.method == "GET" or not form.is_valid():
        status = 422 if request.method == "POST" else 200
        return render(request, "reports/_try.html", {"take": found, "try_form": form}, status=status)
    if "keep" in request.POST:
        services.set_for_take(request.user, found, form.settings)
        response = redirect("take", pk=pk)
        if request.htmx:
            # Drawing, ear notes and mark are others now: the whole page is asked for again.
            response = render(request, "reports/_try.html", {"take": found, "try_form": form})
            response["HX-Refresh"] = "true"
        return response
    context = {"take": found, "try_form": form, "tried": tried(found, form.settings)}
    return render(request, "reports/_try.html", context)


@only_post
@for_teachers
def agree(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """Take over the mark that a newer version of the measuring makes, or leave the one that was released."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    (remeasuring.agree if "agree" in request.POST else remeasuring.decline)(request.user, found)
    return redirect("take", pk=pk)


@only_post
def measure_again(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """Measure a take whose stored result cannot be read."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    remeasuring.measure_now(request.user, found)
    return redirect("take", pk=pk)
