"""The pages of a list of people: upload, preview, import, undo."""

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
from oido.people.quotas import NoRoom
from oido.people.requests import Request
from oido.roster.forms import ListForm
from oido.roster.importing import (
    AS_NEW,
    IMPORTED_AT_ONCE,
    LEAVE_OUT,
    import_list,
    lists_in_reach,
    store_list,
    undo_import,
)
from oido.roster.list_files import read_list
from oido.roster.lists import LeftOut, PeopleList, read_text
from oido.roster.models import ListImport
from oido.roster.planning import Status, plan_import
from oido.roster.problem_texts import describe_left_out, describe_problem

MAX_WRONG = 100


@require_http_methods(["GET", "POST"])
@for_teachers
def send(request: Request) -> HttpResponseBase:
    """Nothing changes here: what is on the list is looked at first."""
    first = {"school_class": whole(request.GET.get("class", ""))}
    form = ListForm(request.POST or None, files=request.FILES or None, by=request.user, initial=first)
    wrong: list[str] = []
    if request.method == "POST" and form.is_valid():
        people = _read(form)
        if people is not None and people.wrong:
            wrong = [describe_problem(line) for line in people.wrong[:MAX_WRONG]]
        elif people is not None and not people.people:
            form.add_error(None, _("There is nobody on this list."))
        elif people is not None:
            file = form.cleaned_data["file"]
            stored = store_list(
                request.user,
                people,
                file_name=file.name if file else "",
                school_class=form.cleaned_data["school_class"],
            )
            if people.passed_over:
                message = _("Not used: the columns %(names)s.") % {
                    "names": ", ".join(people.passed_over[:12])
                }
                messages.info(request, message)
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
    """Show who is new, changed, doubtful and left out; import on POST."""
    stored = get_object_or_404(lists_in_reach(request.user), pk=pk)
    if stored.state != ListImport.State.LOOKED:
        waits = ListImport.objects.filter(split_from=stored, state=ListImport.State.LOOKED).first()
        context = {"stored": stored, "counts": _counts(stored), "for_head": waits}
        return render(request, "roster/list_done.html", context)
    if request.method == "POST":
        decided = {
            number: str(value)
            for name, value in request.POST.items()
            if name.startswith("row-") and (number := whole(name.removeprefix("row-"))) is not None
        }
        if len(stored.people) > IMPORTED_AT_ONCE:
            decided_json = {str(number): value for number, value in decided.items()}
            return asked_for(
                request, "roster.import", title=_("Import of a list"), back=reverse("list", args=[pk]), stored=pk,
                by=request.user.pk, decided=decided_json,
            )  # fmt: skip
        try:
            import_list(request.user, stored, decided)
        except NoRoom as problem:
            messages.error(request, problem.sentence)
        return redirect("list", pk=pk)
    plan = plan_import(request.user, stored)
    context = {
        "stored": stored,
        "plan": plan,
        "groups": [
            (_("New"), plan.with_status(Status.NEW)),
            (_("Changed"), plan.with_status(Status.CHANGED)),
            (_("Already here, nothing to change"), plan.with_status(Status.SAME)),
        ],
        "doubtful": plan.with_status(Status.DOUBTFUL),
        "for_head": plan.rows_for_head(),
        "left_out": [describe_left_out(LeftOut(**person)) for person in stored.left_out],
        "leave_out": LEAVE_OUT,
        "as_new": AS_NEW,
    }
    return render(request, "roster/look_at_list.html", context)


def _counts(stored: ListImport) -> dict[str, int]:
    return {name: len(rows) for name, rows in stored.done.items()}


@only_post
@for_teachers
def undo(request: Request, pk: int) -> HttpResponseBase:
    stored = get_object_or_404(lists_in_reach(request.user), pk=pk)
    undone = undo_import(request.user, stored)
    if undone.kept:
        message = _("Undone, except for %(names)s, who have signed in, recorded or changed class since.") % {
            "names": ", ".join(undone.kept)
        }
        messages.info(request, message)
    else:
        messages.success(request, _("Undone: everything is as it was before."))
    return redirect("list", pk=pk)
