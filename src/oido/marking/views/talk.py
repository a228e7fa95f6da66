"""Remarks, kept phrases, and what is said back."""

import uuid
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from oido.common.permissions import for_teachers
from oido.marking import talk
from oido.marking.forms import PhraseForm, RemarkForm, ReplyForm
from oido.marking.models import Phrase, Remark
from oido.marking.views.reports import report_context
from oido.takes.models import Take
from oido.takes.queries import visible_takes


def _answer(
    request: HttpRequest, found: Take, template: str, *, status: int = 200, **more: Any
) -> HttpResponseBase:
    """A partial for htmx; the whole report for those without."""
    if not request.htmx and status == 200:
        return redirect("take", pk=found.pk)
    fresh = get_object_or_404(visible_takes(request.user), pk=found.pk)
    return render(request, template, {**report_context(request, fresh), **more}, status=status)


@require_POST
@for_teachers
def remark(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    form = RemarkForm(request.POST, part=found.part.read())
    if not form.is_valid():
        return _answer(request, found, "marking/_remarks.html", status=422, remark_form=form)
    talk.write_remark(request.user, found, **form.cleaned_data)
    return _answer(request, found, "marking/_remarks_and_page.html")


@require_POST
@for_teachers
def remove_remark(request: HttpRequest, pk: uuid.UUID, number: int) -> HttpResponseBase:
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    talk.remove_remark(request.user, get_object_or_404(Remark, take=found, pk=number))
    return _answer(request, found, "marking/_remarks_and_page.html")


@require_GET
@for_teachers
def phrase(request: HttpRequest, pk: uuid.UUID, number: int) -> HttpResponseBase:
    """A kept phrase with its fields filled for a take and a place in it, as plain text."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    kept = get_object_or_404(Phrase, pk=number, owner=request.user)
    text = talk.filled(kept, found, bar=request.GET.get("bar", ""), beat=request.GET.get("beat", ""))
    return HttpResponse(text, content_type="text/plain; charset=utf-8")


@require_http_methods(["GET", "POST"])
@for_teachers
def phrases(request: HttpRequest) -> HttpResponseBase:
    """The teacher's kept phrases, to be added to and taken from."""
    drop = request.POST.get("drop", "")
    if drop.isdigit():
        talk.drop_phrase(request.user, get_object_or_404(Phrase, pk=int(drop), owner=request.user))
        return redirect("phrases")
    form = PhraseForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        talk.keep_phrase(request.user, form.cleaned_data["text"])
        return redirect("phrases")
    context = {"form": form, "phrases": request.user.phrases.all(), "fields": talk.PHRASE_FIELDS}
    return render(request, "marking/phrases.html", context, status=422 if request.method == "POST" else 200)


@require_POST
def reply(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """Answer, or ask back."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    form = ReplyForm(request.POST)
    if not form.is_valid():
        return _answer(request, found, "marking/_replies.html", status=422, reply_form=form)
    talk.reply(request.user, found, form.cleaned_data["text"])
    return _answer(request, found, "marking/_replies.html")
