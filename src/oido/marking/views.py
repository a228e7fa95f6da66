import uuid

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from oido.assignments.queries import visible_assignments, with_counts
from oido.common.permissions import for_teachers
from oido.exercises.pages import playing_data
from oido.marking import services
from oido.marking.class_picture import class_picture
from oido.marking.forms import RemarkForm, ScoreForm
from oido.marking.handing_in import said_with
from oido.marking.models import Remark
from oido.marking.queries import waiting_takes
from oido.marking.report import make_report
from oido.marking.sheets import criterion_label, make_sheet
from oido.takes.models import Take
from oido.takes.queries import assignments_of_student, visible_takes
from oido.takes.tray import doubts_told


@require_GET
def home(request: HttpRequest) -> HttpResponseBase:
    return _teacher_home(request) if request.user.is_teacher else _student_home(request)


def _teacher_home(request: HttpRequest) -> HttpResponseBase:
    assignments = list(with_counts(visible_assignments(request.user)).order_by("due_at"))
    waiting = [a for a in assignments if a.waiting]
    now = timezone.now()
    upcoming = [a for a in assignments if a.due_at >= now]
    pictured = max(
        (a for a in assignments if a.handed_in), key=lambda a: (a.waiting > 0, a.due_at), default=None
    )
    context = {
        "today": now,
        "waiting": waiting,
        "waiting_count": sum(a.waiting for a in waiting),
        "upcoming": upcoming,
        "pictured": pictured,
        "picture": class_picture(pictured) if pictured else None,
    }
    return render(request, "marking/teacher_home.html", context)


def _student_home(request: HttpRequest) -> HttpResponseBase:
    due, done = [], []
    for assignment in assignments_of_student(request.user):
        takes = assignment.own_takes
        handed_in = next((t for t in takes if t.is_handed_in), None)
        sheet = getattr(handed_in, "sheet", None)
        row = {
            "assignment": assignment,
            "takes": len(takes),
            "handed_in": handed_in,
            "sheet": sheet if sheet and sheet.is_released else None,
        }
        (done if handed_in else due).append(row)
    done.sort(key=lambda row: row["handed_in"].handed_in_at, reverse=True)
    context = {"today": timezone.now(), "due": due, "done": done}
    return render(request, "marking/student_home.html", context)


@require_GET
@for_teachers
def marking(request: HttpRequest) -> HttpResponseBase:
    """The queue: what was handed in and waits."""
    return render(request, "marking/queue.html", {"takes": waiting_takes(request.user)})


@require_GET
def take(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """The report of one take, for the teacher or for the student whose take it is."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    context = _report_context(request, found)
    is_early = not (context["shows_mark"] or found.assignment.exercise.recording_rules.shows_reading)
    if is_early:
        messages.info(request, _("What Oido heard is shown once your teacher releases the mark."))
        return redirect("stand", pk=found.assignment_id)
    return render(request, "marking/report.html", context)


def _report_context(request: HttpRequest, found: Take) -> dict:
    sheet = getattr(found, "sheet", None)
    is_released = bool(sheet and sheet.is_released)
    shows_mark = request.user.is_teacher or is_released
    remarks = list(found.remarks.select_related("author")) if shows_mark else []
    report = make_report(found, for_teacher=request.user.is_teacher, remarks=remarks)
    count = Take.objects.filter(assignment=found.assignment, student=found.student).count()
    return {
        "take": found,
        "takes_count": count,
        "assignment": found.assignment,
        "exercise": found.assignment.exercise,
        "measures": found.measurement.result["measures"],
        "report": report,
        "sheet": sheet,
        "mark": make_sheet(found.measurement.result, sheet.changes) if sheet and shows_mark else None,
        "is_released": is_released,
        "shows_mark": shows_mark,
        "remark_form": RemarkForm(part=report.part),
        "playing": playing_data(report.part, found.read()),
        "doubts": doubts_told(found),
        **said_with(found, request.user),
    }


def _answer(
    request: HttpRequest, found: Take, template: str, *, status: int = 200, **more
) -> HttpResponseBase:
    """A partial for htmx; the whole report for those without."""
    if not request.htmx and status == 200:
        return redirect("take", pk=found.pk)
    fresh = get_object_or_404(visible_takes(request.user), pk=found.pk)
    context = {**_report_context(request, fresh), **more}
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
