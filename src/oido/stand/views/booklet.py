"""A booklet as a student works through it: one exercise after the other, handed in as one."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from oido.assignments.models import Assignment, BookletAssignment
from oido.assignments.queries import visible_assignments, visible_booklet_assignments
from oido.assignments.student_terms import StudentTerms, StudentTermsTable
from oido.common.permissions import NotAllowed, for_students
from oido.exercises.audio import FORMATS
from oido.marking.hand_in import hand_in_together
from oido.people.models import User
from oido.people.requests import Request
from oido.takes.doubts import submission_blocker
from oido.takes.models import Take
from oido.takes.views import MIDI, together_answer


@dataclass(frozen=True, slots=True, kw_only=True)
class BookletStep:
    """One exercise of it: what may be handed in, and what is."""

    assignment: Assignment
    student_terms: StudentTerms
    takes: tuple[Take, ...]
    handed_in: tuple[Take, ...]
    chosen: Take | None
    """What is proposed: handed in already, starred, or the last one."""

    @property
    def is_open(self) -> bool:
        """Something is still to be handed in."""
        return not self.handed_in and self.student_terms.is_asked

    @property
    def is_together(self) -> bool:
        """It can be handed in with the others: one take, and nothing to be answered."""
        rules = self.student_terms.rules
        return rules.handed_in_takes == 1 and not (
            rules.questions or rules.has_questions_only or rules.to_show
        )


def steps_of(student: User, assigned: BookletAssignment) -> list[BookletStep]:
    assignments = list(visible_assignments(student).filter(booklet=assigned).order_by("place"))
    terms_table = StudentTermsTable(assignments, student=student)
    takes: dict[int, list[Take]] = defaultdict(list)
    own = Take.objects.filter(assignment__in=assignments, student=student).select_related("part")
    for take in own.defer("events", "part__source_file").order_by("-number"):
        takes[take.assignment_id].append(take)
    return [_step(one, terms_table.of(one.pk, student.pk), takes[one.pk]) for one in assignments]


def _step(assignment: Assignment, student_terms: StudentTerms, takes: list[Take]) -> BookletStep:
    fit = [take for take in takes if not submission_blocker(take, student_terms, part=take.part.read())]
    handed_in = tuple(take for take in takes if take.is_handed_in)
    starred = next((take for take in fit if take.is_starred), None)
    return BookletStep(
        assignment=assignment, student_terms=student_terms, takes=tuple(fit), handed_in=handed_in,
        chosen=handed_in[0] if handed_in else starred or (fit[0] if fit else None),
    )  # fmt: skip


@require_http_methods(["GET", "POST"])
@for_students
def booklet(request: Request, pk: int) -> HttpResponseBase:
    assigned = get_object_or_404(visible_booklet_assignments(request.user), pk=pk)
    steps = steps_of(request.user, assigned)
    status = 200
    if request.method == "POST":
        if _handed_in(request, steps):
            return redirect("my-booklet", pk=pk)
        status = 422
    following = next((step for step in steps if step.is_open), None)
    context = {
        "given": assigned, "steps": steps, "following": following,
        "ready": [step for step in steps if step.is_open and step.is_together and step.takes],
        "endings": [MIDI, *FORMATS] if any(step.handed_in for step in steps) else [],
        "done": sum(not step.is_open for step in steps),
    }  # fmt: skip
    return render(request, "stand/booklet.html", context, status=status)


def _handed_in(request: Request, steps: list[BookletStep]) -> bool:
    """All that was chosen, or nothing of it."""
    chosen: list[Any] = []
    for step in steps:
        wanted = request.POST.get(f"take-{step.assignment.pk}", "")
        take = next((one for one in step.takes if str(one.pk) == wanted), None)
        if take is not None and step.is_open and step.is_together:
            chosen.append([take])
    if not chosen:
        messages.error(request, _("There is nothing to hand in yet: record a take of each exercise first."))
        return False
    try:
        hand_in_together(request.user, chosen)
    except NotAllowed:
        messages.error(request, _("One of these cannot be handed in any more. Nothing was handed in."))
        return False
    messages.success(request, _("Handed in: %(n)s exercises.") % {"n": len(chosen)})
    return True


@require_GET
@for_students
def heard_as_one(request: Request, pk: int, ending: str) -> HttpResponseBase:
    """What the student has handed in of a booklet as one recording: one MIDI file at once, a sound file as a job."""
    assigned = get_object_or_404(visible_booklet_assignments(request.user), pk=pk)
    return together_answer(request, assigned, request.user, ending, back=reverse("my-booklet", args=[pk]))


def beside(student: User, assignment: Assignment) -> dict[str, object]:
    """Where an exercise stands in its booklet, for the Stand."""
    if assignment.booklet_id is None:
        return {}
    rows = list(
        visible_assignments(student)
        .filter(booklet=assignment.booklet_id)
        .order_by("place")
        .values_list("pk", flat=True)
    )
    at = rows.index(assignment.pk)
    return {
        "booklet": assignment.booklet, "number": at + 1, "of": len(rows),
        "before": rows[at - 1] if at else None, "after": rows[at + 1] if at + 1 < len(rows) else None,
    }  # fmt: skip
