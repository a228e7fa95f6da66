"""Remarks and what is said back, on the report."""

import uuid
from typing import Any

from django.http import HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_GET

from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.feedback import remarks
from oido.feedback.forms import RemarkForm, ReplyForm
from oido.marking.models import Phrase, Remark
from oido.people.requests import Request
from oido.reports.views.report import report_context
from oido.takes.models import Take
from oido.takes.queries import visible_takes

PLACE_MISSING = {
    "bar": gettext_lazy("This phrase mentions a bar. Enter its number, then choose the phrase again."),
    "beat": gettext_lazy("This phrase names a beat. Enter the beat, then choose the phrase again."),
}


def _answer(
    request: Request, take: Take, template: str, *, status: int = 200, **more: Any
) -> HttpResponseBase:
    """A partial for htmx; the whole report for those without."""
    if not request.htmx and status == 200:
        return redirect("take", pk=take.pk)
    fresh = get_object_or_404(visible_takes(request.user), pk=take.pk)
    return render(request, template, {**report_context(request, fresh), **more}, status=status)


@only_post
@for_teachers
def remark(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    form = RemarkForm(request.POST, part=take.part.read())
    if not form.is_valid():
        return _answer(request, take, "reports/_remarks.html", status=422, remark_form=form)
    remarks.write_remark(request.user, take, **form.cleaned_data)
    return _answer(request, take, "reports/_remarks_and_page.html")


@only_post
@for_teachers
def remove_remark(request: Request, pk: uuid.UUID, number: int) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    remarks.remove_remark(request.user, get_object_or_404(Remark, take=take, pk=number))
    return _answer(request, take, "reports/_remarks_and_page.html")


@require_GET
@for_teachers
def phrase(request: Request, pk: uuid.UUID, number: int) -> HttpResponseBase:
    """A saved phrase with its fields filled for a take and a place in it, as plain text."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    kept = get_object_or_404(Phrase, pk=number, owner=request.user)
    try:
        text = remarks.filled(kept, take, bar=request.GET.get("bar", ""), beat=request.GET.get("beat", ""))
    except remarks.PlaceMissing as missing:
        return JsonResponse({"field": missing.field, "problem": PLACE_MISSING[missing.field]}, status=422)
    return HttpResponse(text, content_type="text/plain; charset=utf-8")


@only_post
def reply(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Reply back."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    form = ReplyForm(request.POST)
    if not form.is_valid():
        return _answer(request, take, "reports/_replies.html", status=422, reply_form=form)
    remarks.reply(request.user, take, form.cleaned_data["text"])
    return _answer(request, take, "reports/_replies.html")
