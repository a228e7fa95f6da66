"""A list of people: sent, looked at, taken in, undone."""

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from ear.errors import FormatError
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.jobs.views import asked_for
from oido.people.requests import Request
from oido.roster.forms import ListForm
from oido.roster.importing import (
    AS_NEW,
    AT_ONCE,
    LEAVE_OUT,
    Status,
    do_import,
    plan_of,
    store_list,
    undo_import,
)
from oido.roster.lists import PeopleList, read_list, read_text
from oido.roster.models import ListImport
from oido.roster.said import said

WRONG_MOST = 100


@require_http_methods(["GET", "POST"])
@for_teachers
def send(request: Request) -> HttpResponseBase:
    """Nothing changes here: what is on the list is looked at first."""
    first = {"school_class": whole(request.GET.get("class", ""))}
    form = ListForm(request.POST or None, request.FILES or None, by=request.user, initial=first)
    wrong: list[str] = []
    if request.method == "POST" and form.is_valid():
        found = _read(form)
        if found is not None and found.wrong:
            wrong = [said(one) for one in found.wrong[:WRONG_MOST]]
        elif found is not None and not found.people:
            form.add_error(None, _("There is nobody on this list."))
        elif found is not None:
            file = form.cleaned_data["file"]
            stored = store_list(
                request.user,
                found,
                file_name=file.name if file else "",
                school_class=form.cleaned_data["school_class"],
            )
            if found.passed_over:
                told = _("Not used: the columns %(names)s.") % {"names": ", ".join(found.passed_over[:12])}
                messages.info(request, told)
            return redirect("list", pk=stored.pk)
    context = {"form": form, "wrong": wrong}
    return render(request, "roster/send_list.html", context, status=422 if form.is_bound else 200)


def _read(form: ListForm) -> PeopleList | None:
    file = form.cleaned_data["file"]
    try:
        return read_list(file.read()) if file else read_text(form.cleaned_data["text"])
    except FormatError as problem:
        form.add_error("file" if file else "text", _("This list cannot be read: %(why)s.") % {"why": problem})
        return None


@require_http_methods(["GET", "POST"])
@for_teachers
def look(request: Request, pk: int) -> HttpResponseBase:
    """New, changed, doubtful, left out; then it is done, or not."""
    stored = get_object_or_404(ListImport, pk=pk, made_by=request.user)
    if stored.state != ListImport.State.LOOKED:
        return render(request, "roster/list_done.html", {"stored": stored, "counts": _counts(stored)})
    if request.method == "POST":
        decided = {
            number: str(value)
            for name, value in request.POST.items()
            if name.startswith("row-") and (number := whole(name.removeprefix("row-"))) is not None
        }
        if len(stored.people) > AT_ONCE:
            decided_json = {str(number): value for number, value in decided.items()}
            return asked_for(
                request, "roster.import", title=_("Import of a list"), back=reverse("list", args=[pk]), stored=pk,
                by=request.user.pk, decided=decided_json,
            )  # fmt: skip
        do_import(request.user, stored, decided)
        return redirect("list", pk=pk)
    plan = plan_of(request.user, stored)
    context = {
        "stored": stored,
        "plan": plan,
        "groups": [
            (_("New"), plan.of(Status.NEW)),
            (_("Changed"), plan.of(Status.CHANGED)),
            (_("Already here as listed"), plan.of(Status.SAME)),
        ],
        "doubtful": plan.of(Status.DOUBTFUL),
        "leave_out": LEAVE_OUT,
        "as_new": AS_NEW,
    }
    return render(request, "roster/look_at_list.html", context)


def _counts(stored: ListImport) -> dict[str, int]:
    return {name: len(found) for name, found in stored.done.items()}


@only_post
@for_teachers
def undo(request: Request, pk: int) -> HttpResponseBase:
    stored = get_object_or_404(ListImport, pk=pk, made_by=request.user)
    found = undo_import(request.user, stored)
    if found.kept:
        told = _("Undone, but for %(names)s, who have signed in or recorded since.") % {
            "names": ", ".join(found.kept)
        }
        messages.info(request, told)
    else:
        messages.success(request, _("Undone: everything is as it was before."))
    return redirect("list", pk=pk)
