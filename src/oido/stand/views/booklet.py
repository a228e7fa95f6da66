"""A booklet as a student works through it: one exercise after the other, handed in as one."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from django.views.decorators.http import require_GET, require_http_methods

from oido.assignments.models import Assignment, BookletAssignment
from oido.assignments.queries import visible_assignments, visible_booklet_assignments
from oido.assignments.student_terms import StudentTerms, StudentTermsTable
from oido.common.fields import offer
from oido.common.forms import FormData
from oido.common.permissions import NotAllowed, for_students
from oido.exercises.audio import FORMATS
from oido.marking.hand_in import Submission, hand_in_together, take_of_answers
from oido.people.models import User
from oido.people.requests import Request
from oido.stand.forms import MAX_ANSWER_LENGTH
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
        """It can be handed in with the others: what is to be shown is shown in a copy, on a page of its own."""
        return not self.student_terms.rules.to_show

    @property
    def can_hand_in(self) -> bool:
        """There is something to hand in with the others, or to answer."""
        return (
            self.is_open
            and self.is_together
            and bool(self.takes or self.student_terms.rules.has_questions_only)
        )


class StepForm(forms.Form):
    """What is handed in of one step: as many takes as it asks for, and answers to its questions. Left empty, the step stays
    open.
    """

    takes = forms.MultipleChoiceField(required=False, widget=forms.CheckboxSelectMultiple)

    def __init__(self, data: FormData = None, *, step: BookletStep) -> None:
        super().__init__(data, prefix=f"step-{step.assignment.pk}")
        self.step = step
        self.rules = rules = step.student_terms.rules
        if rules.has_questions_only:
            del self.fields["takes"]
        elif rules.handed_in_takes == 1:
            takes = [("", _("not yet")), *((str(take.pk), self._take_name(take)) for take in step.takes)]
            self.fields["takes"] = forms.ChoiceField(
                label=step.student_terms.exercise.title, required=False, choices=takes,
                initial=str(step.chosen.pk) if step.chosen else "",
            )  # fmt: skip
        else:
            offer(self, "takes", [(str(take.pk), self._take_name(take)) for take in step.takes])
            self.fields["takes"].label = ngettext(
                "Choose %(n)s take", "Choose %(n)s takes", rules.handed_in_takes
            ) % {"n": rules.handed_in_takes}
        for number, question in enumerate(rules.questions):
            self.fields[f"answer-{number}"] = forms.CharField(
                label=question, required=False, max_length=MAX_ANSWER_LENGTH, widget=forms.Textarea(attrs={"rows": 2})
            )  # fmt: skip

    @staticmethod
    def _take_name(take: Take) -> str:
        name = _("take %(n)s, %(when)s") % {
            "n": take.number, "when": date_format(timezone.localtime(take.recorded_at), "SHORT_DAY_TIME"),
        }  # fmt: skip
        return f"{name} ★" if take.is_starred else name

    @property
    def chosen(self) -> list[Take]:
        """The takes that were chosen."""
        wanted = self.cleaned_data.get("takes") or []
        wanted = [wanted] if isinstance(wanted, str) else wanted
        return [take for take in self.step.takes if str(take.pk) in wanted]

    @property
    def answers(self) -> tuple[tuple[str, str], ...]:
        """Each question with its answer."""
        return tuple(
            (question, self.cleaned_data.get(f"answer-{number}", ""))
            for number, question in enumerate(self.rules.questions)
        )

    @property
    def is_left_open(self) -> bool:
        """Was nothing chosen, and nothing answered?"""
        return not self.chosen and not any(answer for _question, answer in self.answers)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        self.cleaned_data = cleaned
        if self.errors or self.is_left_open:
            return cleaned
        wanted = self.rules.handed_in_takes
        if "takes" in self.fields and len(self.chosen) != wanted:
            message = ngettext("Choose one take.", "Choose %(n)s takes.", wanted) % {"n": wanted}
            self.add_error("takes", message)
        for number, (_question, answer) in enumerate(self.answers):
            if not answer:
                self.add_error(f"answer-{number}", _("Your teacher asks for this. Please write a sentence."))
        return cleaned

    def submission(self, student: User) -> Submission:
        """Return what is handed in of this step."""
        takes = (
            (take_of_answers(student, self.step.assignment),)
            if self.rules.has_questions_only
            else tuple(self.chosen)
        )
        return Submission(takes=takes, answers=self.answers)


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
    forms_by_step = {
        step.assignment.pk: StepForm(request.POST if request.method == "POST" else None, step=step)
        for step in steps
        if step.can_hand_in
    }
    status = 200
    if request.method == "POST":
        if _handed_in(request, list(forms_by_step.values())):
            return redirect("my-booklet", pk=pk)
        status = 422
    following = next((step for step in steps if step.is_open), None)
    context = {
        "given": assigned, "rows": [(step, forms_by_step.get(step.assignment.pk)) for step in steps],
        "following": following, "ready": forms_by_step,
        "endings": [MIDI, *FORMATS] if any(step.handed_in for step in steps) else [],
        "done": sum(not step.is_open for step in steps),
    }  # fmt: skip
    return render(request, "stand/booklet.html", context, status=status)


def _handed_in(request: Request, step_forms: list[StepForm]) -> bool:
    """Hand in all that was chosen and answered, or nothing of it."""
    # All of them are checked, so that all that is wrong is marked.
    if [form for form in step_forms if not form.is_valid()]:
        messages.error(request, _("Nothing was handed in yet: please look at what is marked below."))
        return False
    filled = [form for form in step_forms if not form.is_left_open]
    if not filled:
        messages.error(request, _("There is nothing to hand in yet: record a take of each exercise first."))
        return False
    try:
        hand_in_together(request.user, [form.submission(request.user) for form in filled])
    except NotAllowed:
        messages.error(request, _("One of these cannot be handed in any more. Nothing was handed in."))
        return False
    messages.success(request, _("Handed in: %(n)s exercises.") % {"n": len(filled)})
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
