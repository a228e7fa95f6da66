"""One assignment of a class: the class picture, its rubric, and what comes of both."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext_lazy
from django.views.decorators.http import require_GET, require_http_methods

from ear.editing.bars import keep_bars
from ear.errors import EarError
from ear.judging.differences import Deduction
from ear.numerals import signed
from oido.assignments.models import Assignment
from oido.assignments.queries import visible_assignments
from oido.assignments.student_terms import StudentTermsTable
from oido.common.fields import offer_rows
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import NotAllowed, for_teachers
from oido.common.readers import number
from oido.desk.class_picture import class_picture
from oido.exercises.models import MAX_TITLE_LENGTH
from oido.exercises.services import begin_variation
from oido.marking import remarking
from oido.marking.models import Remarking
from oido.people.models import User
from oido.people.requests import Request
from oido.reports.view_options import voice_name
from oido.rubrics.labels import CRITERION_LABELS
from oido.rubrics.models import RubricVersion, read_version
from oido.rubrics.queries import visible_rubrics


class RubricChoice(forms.Form):
    """By which rubric an assignment is marked."""

    rubric = forms.ModelChoiceField(
        label=gettext_lazy("Marked by"), queryset=RubricVersion.objects.none(), required=False,
        empty_label=gettext_lazy("Oido’s own rubric"),
    )  # fmt: skip
    with_released = forms.BooleanField(label=gettext_lazy("released marks too"), required=False)

    def __init__(self, data: Any = None, *, teacher: User, assignment: Assignment) -> None:
        super().__init__(data, initial={"rubric": assignment.rubric_id})
        rubrics = visible_rubrics(teacher).filter(kind=assignment.exercise.kind)
        current = RubricVersion.objects.filter(current_of__in=rubrics)
        chosen = [] if assignment.rubric_id is None else [assignment.rubric_id]
        own = RubricVersion.objects.filter(pk__in=chosen)
        offer_rows(self, "rubric", (current | own).select_related("rubric").distinct())


def _get_assignment(request: Request, pk: int) -> Assignment:
    rows = visible_assignments(request.user).select_related("exercise__part", "rubric__rubric__current")
    return get_object_or_404(rows.defer("exercise__part__source_file"), pk=pk)


@require_GET
@for_teachers
def assignment(request: Request, pk: int) -> HttpResponseBase:
    """The class picture, by `of` of one hand or lane."""
    assignment = _get_assignment(request, pk)
    picture = class_picture(assignment, request.GET.get("of", ""))
    terms_table = StudentTermsTable([assignment])
    students = assignment.school_class.students.order_by("last_name", "first_name")
    asked = [one for one in students if terms_table.of(assignment.pk, one.pk).is_asked]
    last = assignment.remarkings.first()
    context = {
        "assignment": assignment,
        "picture": picture,
        "voices": [(voice, voice_name(voice), voice == picture.voice) for voice in picture.voices],
        "missing": [one for one in asked if one.pk not in picture.handed_in],
        "form": RubricChoice(teacher=request.user, assignment=assignment),
        "job": last if last and last.state in remarking.OPEN else None,
        "is_newer": bool(assignment.rubric and assignment.rubric.rubric.current_id != assignment.rubric_id),
    }
    return render(request, "desk/assignment.html", context)


@only_post
@for_teachers
def try_rubric(request: Request, pk: int) -> HttpResponseBase:
    assignment = _get_assignment(request, pk)
    form = RubricChoice(request.POST, teacher=request.user, assignment=assignment)
    if not form.is_valid():
        messages.error(request, _("This rubric no longer exists."))
        return redirect("assignment", pk=pk)
    job = remarking.begin(request.user, assignment, form.cleaned_data["rubric"], with_released=form.cleaned_data["with_released"])  # fmt: skip
    if job.state == Remarking.State.KEPT:
        messages.success(request, _("Takes handed in are now marked with this rubric."))
        return redirect("assignment", pk=pk)
    return redirect("remarking", pk=job.pk)


DEDUCTIONS = {
    Deduction.CEILING: gettext_lazy("ceiling"),
    Deduction.HELP: pgettext_lazy("label", "help given"),
    Deduction.LATE: gettext_lazy("handed in late"),
    Deduction.FLOOR: gettext_lazy("never below 0"),
}


def _changes_in_words(job: Remarking, row: dict[str, Any]) -> str:
    """Return why a total changes, such as “63.4 + 15.0 (handed in late) = 78.4”, in points of 100; empty where it stays."""
    rubrics = [
        read_version(version, job.assignment.exercise.kind) for version in (job.rubric, job.assignment.rubric)
    ]

    def label(name: str) -> str:
        if name in DEDUCTIONS:
            return str(DEDUCTIONS[Deduction(name)])
        criterion_named = next(
            (criterion for rubric in rubrics if (criterion := rubric.criterion(name)) is not None), None
        )
        return criterion_named.label if criterion_named else str(CRITERION_LABELS.get(name, name))

    if not row["changes"]:
        return ""
    steps = "".join(
        f" {signed(change, 3)[0]} {number(abs(change))} ({label(name)})" for name, change in row["changes"]
    )
    return f"{number(row['total_before'])}{steps} = {number(row['total'])}"


@require_http_methods(["GET", "POST"])
@for_teachers
def remarking_job(request: Request, pk: int) -> HttpResponseBase:
    """Progress of the work, then who moves where; to be kept or dropped."""
    job = get_object_or_404(
        Remarking.objects.select_related("assignment__exercise", "assignment__school_class", "rubric__rubric"),
        pk=pk, assignment__in=visible_assignments(request.user),
    )  # fmt: skip
    if request.method == "POST":
        try:
            if "keep" in request.POST:
                remarking.save_remarking(request.user, job)
                return redirect("remarking", pk=pk)
            remarking.discard(request.user, job)
        except NotAllowed:
            return redirect("remarking", pk=pk)
        messages.success(request, _("No marks were changed."))
        return redirect("assignment", pk=job.assignment_id)
    rows = [{**row, "why": _changes_in_words(job, row)} for row in remarking.rows_of(job)]
    moved = [row for row in rows if row["band_before"] != row["band"]]
    context = {
        "job": job, "assignment": job.assignment, "moved": moved,
        "stays": [row for row in rows if row["band_before"] == row["band"]],
        "is_working": job.state in (Remarking.State.TRYING, Remarking.State.KEEPING),
        "asked": remarking.waiting_again(job) if job.state in (Remarking.State.TRIED, Remarking.State.KEPT) else [],
        "share": round(100 * job.done / job.takes) if job.takes else 100,
    }  # fmt: skip
    template = "desk/_remarking.html" if request.htmx else "desk/remarking.html"
    return render(request, template, context)


@only_post
@for_teachers
def exercise_of_bars(request: Request, pk: int) -> HttpResponseBase:
    """An exercise of just the bars chosen, begun as a variation, and opened at the Bench."""
    assignment = _get_assignment(request, pk)
    bars = sorted({n for n in map(whole, request.POST.getlist("bar")) if n is not None})
    try:
        part = keep_bars(assignment.exercise.part_in_force.read(), bars)
    except EarError:
        messages.error(request, _("Choose the bars first: tick them under the picture."))
        return redirect("assignment", pk=pk)
    bar_numbers = ", ".join(map(str, bars))
    title = _("%(title)s: bars %(bars)s") % {"title": assignment.exercise.title, "bars": bar_numbers}
    made = begin_variation(request.user, assignment.exercise, title=title[:MAX_TITLE_LENGTH], part=part)
    return redirect("bench", pk=made.pk)
