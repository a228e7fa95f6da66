"""A booklet that was given: who has handed in what of it; each student's takes heard as one."""

from collections import defaultdict
from typing import Any

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from oido.assignments.models import BookletAssignment
from oido.assignments.queries import visible_booklet_assignments
from oido.assignments.student_terms import StudentTermsTable
from oido.common.permissions import for_teachers
from oido.exercises import audio
from oido.people.models import User
from oido.people.requests import Request
from oido.takes.models import Take
from oido.takes.views import MIDI, together_answer


@require_GET
@for_teachers
def booklet_assignment(request: Request, pk: int) -> HttpResponseBase:
    """Students by exercises: a step for each."""
    booklet_assigned = get_object_or_404(visible_booklet_assignments(request.user), pk=pk)
    assignments = list(booklet_assigned.assignments.select_related("exercise").order_by("place"))
    students: Any = booklet_assigned.school_class.students
    terms_table = StudentTermsTable(assignments)
    handed: dict[tuple[int, int], Take] = {}
    recorded: dict[tuple[int, int], int] = defaultdict(int)
    takes = Take.objects.filter(assignment__in=assignments, student__erased_as="").select_related("sheet")
    for take in takes.defer("events").order_by("number"):
        key = (take.student_id, take.assignment_id)
        recorded[key] += 1
        if take.is_handed_in:
            handed[key] = take
    rows = []
    for student in students.order_by("last_name", "first_name", "pk"):
        cells = [
            (
                terms_table.of(one.pk, student.pk),
                handed.get((student.pk, one.pk)),
                recorded.get((student.pk, one.pk), 0),
            )
            for one in assignments
        ]
        rows.append((student, cells, sum(take is not None for _student_terms, take, _n in cells)))
    context = {
        "given": booklet_assigned, "assignments": assignments, "rows": rows, "endings": [MIDI, *audio.FORMATS],
    }  # fmt: skip
    return render(request, "desk/given_booklet.html", context)


@require_GET
@for_teachers
def heard_as_one(request: Request, pk: int, student: int, ending: str) -> HttpResponseBase:
    """One MIDI file at once, one sound file as a job."""
    booklet_assigned: BookletAssignment = get_object_or_404(visible_booklet_assignments(request.user), pk=pk)
    person = get_object_or_404(
        User.objects.filter(classes_attended=booklet_assigned.school_class), pk=student
    )
    return together_answer(
        request, booklet_assigned, person, ending, back=reverse("given-booklet", args=[pk])
    )
