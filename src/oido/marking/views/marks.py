"""What teachers do with a take: change scores, write remarks, release; and the queue of what waits."""

import uuid

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from oido.common.permissions import for_teachers
from oido.marking import services
from oido.marking.forms import RemarkForm, ScoreForm
from oido.marking.models import Remark
from oido.marking.queries import waiting_takes
from oido.marking.sheets import criterion_label, make_sheet
from oido.marking.views.reports import report_context
from oido.takes.models import Take
from oido.takes.queries import visible_takes


@require_GET
@for_teachers
def marking(request: HttpRequest) -> HttpResponseBase:
    """The queue: what was handed in and waits."""
    return render(request, "marking/queue.html", {"takes": waiting_takes(request.user)})


def _answer(
    request: HttpRequest, found: Take, template: str, *, status: int = 200, **more
) -> HttpResponseBase:
    """A partial for htmx; the whole report for those without."""
    if not request.htmx and status == 200:
        return redirect("take", pk=found.pk)
    fresh = get_object_or_404(visible_takes(request.user), pk=found.pk)
    context = {**report_context(request, fresh), **more}
    return render(request, template, context, status=status)


@require_http_methods(["GET", "POST"])
@for_teachers
def change_score(request: HttpRequest, pk: uuid.UUID, criterion: str) -> HttpResponseBase:
    """Change one criterion, or (`back`) give the machine's figure back."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    names = {c["name"] for c in found.measurement.result["criteria"]}
    if criterion not in names:
        raise Http404
    if request.method == "GET":
        now = make_sheet(found.measurement.result, found.sheet.changes)
        row = next(r for r in now.rows if r.name == criterion)
        form = ScoreForm(initial={"score": round(row.score or 0), "why": row.why})
        return _answer(request, found, "marking/_mark.html", editing=criterion, score_form=form,
                       editing_label=criterion_label(criterion))  # fmt: skip
    if "back" in request.POST:
        services.change_score(request.user, found, criterion, score=None, why="")
        return _answer(request, found, "marking/_mark.html")
    form = ScoreForm(request.POST)
    if not form.is_valid():
        return _answer(request, found, "marking/_mark.html", status=422, editing=criterion,
                       score_form=form, editing_label=criterion_label(criterion))  # fmt: skip
    services.change_score(request.user, found, criterion, **form.cleaned_data)
    return _answer(request, found, "marking/_mark.html")


@require_POST
@for_teachers
def remark(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    form = RemarkForm(request.POST, part=found.part.read())
    if not form.is_valid():
        return _answer(request, found, "marking/_remarks.html", status=422, remark_form=form)
    services.write_remark(request.user, found, **form.cleaned_data)
    return _answer(request, found, "marking/_remarks_and_page.html")


@require_POST
@for_teachers
def remove_remark(request: HttpRequest, pk: uuid.UUID, number: int) -> HttpResponseBase:
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    services.remove_remark(request.user, get_object_or_404(Remark, take=found, pk=number))
    return _answer(request, found, "marking/_remarks_and_page.html")


@require_POST
@for_teachers
def release(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """Release and go on to the next take that waits, if there is one."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    services.release(request.user, found)
    messages.success(
        request, _("%(name)s can see the mark of “%(title)s” now.")
        % {"name": found.student.name, "title": found.assignment.exercise.title},
    )  # fmt: skip
    following = waiting_takes(request.user).first()
    return redirect("take", pk=following.pk) if following else redirect("marking")
