"""The first page of teacher and student."""

from dataclasses import dataclass
from typing import Any

from django.http import HttpResponseBase
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from oido.assignments.models import BookletAssignment, Reminder
from oido.assignments.queries import counted, reminders_of, visible_assignments
from oido.assignments.student_terms import StudentTerms, StudentTermsTable
from oido.common.permissions import for_students
from oido.desk.class_picture import class_picture
from oido.home.five_minutes import five_minutes
from oido.marking.models import MarkSheet
from oido.marking.queue import QUESTIONS, Queue, queued
from oido.opening.first_steps import open_steps
from oido.people.queries import classes_of
from oido.people.requests import Request
from oido.takes.queries import assignments_of_student, takes_of_earlier_classes, takes_of_withdrawn

SHOWN_WITHDRAWN = 10
SHOWN_EARLIER = 100


@require_GET
def home(request: Request) -> HttpResponseBase:
    return _teacher_home(request) if request.user.is_teacher else _student_home(request)


@require_GET
@for_students
def five_minutes_today(request: Request) -> HttpResponseBase:
    """The plan for today, for the student's first page, which does not wait for it."""
    return render(request, "home/_five_minutes.html", {"today": five_minutes(request.user)})


def _teacher_home(request: Request) -> HttpResponseBase:
    own = visible_assignments(request.user).filter(
        school_class__in=classes_of(request.user).filter(archived_at=None), withdrawn_at=None
    )
    assignments = counted(own.order_by("due_at"))
    waiting = [a for a in assignments if a.waiting]
    now = timezone.now()
    upcoming = [a for a in assignments if a.due_at >= now]
    pictured = max(
        (a for a in assignments if a.handed_in), key=lambda a: (a.waiting > 0, a.due_at), default=None
    )
    context = {
        "first_steps": open_steps(request.user),
        "today": now,
        "waiting": waiting,
        "questions": queued(request.user, Queue(state=QUESTIONS)).count(),
        "waiting_count": sum(a.waiting for a in waiting),
        "upcoming": upcoming,
        "pictured": pictured,
        "picture": class_picture(pictured) if pictured else None,
    }
    return render(request, "home/teacher_home.html", context)


@dataclass(frozen=True, slots=True, kw_only=True)
class StudentLine:
    """An assignment as its student sees it."""

    assignment: Any
    """With `own_takes`."""
    student_terms: StudentTerms
    booklet: BookletAssignment | None
    is_late: bool
    reminded: Reminder | None
    takes: int
    """Their number."""
    handed_in: Any
    """The take; None where there is none."""
    sheet: MarkSheet | None
    """Of a released mark."""
    asked_again: bool


def _student_home(request: Request) -> HttpResponseBase:
    due: list[StudentLine] = []
    done: list[StudentLine] = []
    elsewhere: list[StudentLine] = []
    assignment: Any
    now = timezone.now()
    assignments = list(assignments_of_student(request.user))
    terms_table = StudentTermsTable(assignments, student=request.user)
    reminded = reminders_of(request.user)
    for assignment in assignments:
        student_terms = terms_table.of(assignment.pk, request.user.pk)
        takes = assignment.own_takes
        handed_in = next((t for t in takes if t.is_handed_in), None)
        sheet = getattr(handed_in, "sheet", None)
        line = StudentLine(
            assignment=assignment,
            student_terms=student_terms,
            booklet=assignment.booklet,
            is_late=student_terms.is_late(now),
            reminded=reminded.get(assignment.pk),
            takes=len(takes),
            handed_in=handed_in,
            sheet=sheet if sheet and sheet.is_released else None,
            asked_again=bool(sheet and sheet.asked_again_at and not sheet.is_released),
        )
        is_over = not student_terms.is_asked or assignment.closed_at is not None
        if handed_in and not line.asked_again:
            done.append(line)
        else:
            (elsewhere if is_over and not line.asked_again else due).append(line)
    due.sort(key=lambda line: line.student_terms.due_at)
    done.sort(key=lambda line: line.handed_in.handed_in_at, reverse=True)
    context = {
        "today": now,
        "due": due,
        "has_takes": any(line.takes for line in due),
        "done": done,
        "elsewhere": elsewhere,
        "earlier": takes_of_earlier_classes(request.user)[:SHOWN_EARLIER],
        "withdrawn": takes_of_withdrawn(request.user)[:SHOWN_WITHDRAWN],
    }
    return render(request, "home/student_home.html", context)
