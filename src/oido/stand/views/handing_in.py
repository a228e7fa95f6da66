"""Handing in: which takes, what is said with them, and the receipt."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.functional import cached_property
from django.utils.text import capfirst
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, ngettext
from django.views.decorators.http import require_GET, require_http_methods

from ear.practice.showing import InWords, Skill
from oido.assignments.student_terms import StudentTerms
from oido.common.fields import offer
from oido.common.forms import FormData
from oido.common.permissions import NotAllowed, for_students
from oido.exercises.showing import describe_showing
from oido.marking import hand_in as service
from oido.people.conventions import conventions_of
from oido.people.requests import Request
from oido.stand.forms import MAX_ANSWER_LENGTH
from oido.stand.lookup import student_terms_or_404
from oido.stand.tray import Tray, TrayRow, read_tray
from oido.takes.judging import judged
from oido.takes.models import HandIn, Take
from oido.takes.showing import ShowingLine, lines_of, showing_of

NOT_THE_EXERCISE = frozenset({"foreign", "empty"})
"""Ear notes by whose codes a take is hardly the exercise."""
FAR_FROM_BEST = 10.0
"""Points of 100 that a take is behind the best before it is asked about."""


class _One(forms.RadioSelect):
    """One of them, as a list of one."""

    def value_from_datadict(self, data: Any, files: Any, name: str) -> Any:
        return data.getlist(name)


class HandInForm(forms.Form):
    """Which takes, a note to the teacher, answers to the exercise's questions."""

    takes = forms.MultipleChoiceField(label=gettext_lazy("takes"), widget=forms.CheckboxSelectMultiple)
    note = forms.CharField(
        label=gettext_lazy("A note to your teacher"), required=False, max_length=MAX_ANSWER_LENGTH,
        widget=forms.Textarea(attrs={"rows": 3}),
    )  # fmt: skip

    def __init__(
        self, data: FormData = None, *, tray: Tray, hand_in: HandIn | None, chosen: list[str], **more: Any
    ) -> None:
        self.rules = rules = tray.rules
        questions = hand_in.answered(rules.questions) if hand_in else [(q, "") for q in rules.questions]
        super().__init__(data, initial={"takes": chosen, "note": hand_in.note if hand_in else ""}, **more)
        self.wanted = rules.handed_in_takes
        self.rows = [row for row in tray.rows if not row.submission_blocker]
        choices = [(str(row.take.pk), str(row.take.number)) for row in self.rows]
        offer(self, "takes", choices)
        self.has_takes = not rules.has_questions_only
        self.to_explain = [asked for asked in rules.to_show if asked.in_words is not InWords.NONE]
        shown = {
            asked.asked.skill: asked.explanation
            for take in tray.handed_in
            if take.showing
            for asked in take.showing.things
        }
        for asked in self.to_explain:
            self.fields[f"explained-{asked.skill.value}"] = forms.CharField(
                label=capfirst(describe_showing(asked)), max_length=MAX_ANSWER_LENGTH,
                initial=shown.get(asked.skill, ""), widget=forms.Textarea(attrs={"rows": 2}),
                error_messages={"required": gettext_lazy("Please explain it in a sentence.")},
            )  # fmt: skip
        if not self.has_takes:
            del self.fields["takes"]
        elif self.wanted == 1:
            self.fields["takes"].widget = _One(choices=choices)
        self.questions = [question for question, _answer in questions]
        for number, (question, answer) in enumerate(questions):
            self.fields[f"answer-{number}"] = forms.CharField(
                label=question, max_length=MAX_ANSWER_LENGTH, initial=answer, widget=forms.Textarea(attrs={"rows": 2}),
                error_messages={"required": gettext_lazy("Your teacher asks for this. Please write a sentence.")},
            )  # fmt: skip

    def clean_takes(self) -> list[str]:
        takes: list[str] = self.cleaned_data["takes"]
        if len(takes) != self.wanted:
            raise forms.ValidationError(
                ngettext("Choose one take.", "Choose %(n)s takes.", self.wanted) % {"n": self.wanted}
            )
        return takes

    @property
    def in_turn(self) -> str:
        """Where the notes of all takes are, to be heard one after the other."""
        return " ".join(reverse("take-notes", args=[row.take.pk]) for row in self.rows)

    @property
    def explanations(self) -> list[Any]:
        return [self[f"explained-{one.skill.value}"] for one in self.to_explain]

    def explained(self) -> dict[Skill, str]:
        return {one.skill: self.cleaned_data[f"explained-{one.skill.value}"] for one in self.to_explain}

    @cached_property
    def showings(self) -> list[tuple[TrayRow, list[ShowingLine]]]:
        """Each take that may be handed in, with what its copy shows of what is asked."""
        return [(row, lines_of(showing_of(row.take, self.rules))) for row in self.rows]

    @property
    def choices(self) -> list[tuple[Any, TrayRow, list[ShowingLine]]]:
        return [(box, row, lines) for box, (row, lines) in zip(self["takes"], self.showings, strict=True)]

    @property
    def asked(self) -> list[Any]:
        return [self[f"answer-{number}"] for number in range(len(self.questions))]

    def answers(self) -> list[tuple[str, str]]:
        return [
            (question, self.cleaned_data[f"answer-{number}"])
            for number, question in enumerate(self.questions)
        ]


@require_http_methods(["GET", "POST"])
@for_students
def hand_in(request: Request, pk: int) -> HttpResponseBase:
    """Choose, say what is to be said, hand in; `take` in the query is chosen beforehand."""
    student_terms = student_terms_or_404(request, pk)
    tray = read_tray(request.user, student_terms)
    hand_in = HandIn.objects.filter(assignment=student_terms.assignment, student=request.user).first()
    chosen = request.GET.getlist("take") or [str(take.pk) for take in tray.handed_in]
    form = HandInForm(request.POST or None, tray=tray, hand_in=hand_in, chosen=chosen)
    second_thoughts: list[str] = []
    if request.method == "POST" and form.is_valid():
        by_id = {str(row.take.pk): row.take for row in form.rows}
        takes = [by_id[key] for key in form.cleaned_data.get("takes", [])]
        second_thoughts = [] if "even_so" in request.POST else _second_thoughts(takes, form, tray)
        if not second_thoughts:
            problem = _hand_in(request, student_terms, takes, form)
            if not problem:
                return redirect("receipt", pk=pk)
            form.add_error(None, problem)
    context = {
        "assignment": student_terms.assignment, "student_terms": student_terms, "exercise": student_terms.exercise, "tray": tray, "form": form, "said": hand_in,
        "is_late": student_terms.is_late(timezone.now()), "second_thoughts": second_thoughts,
        "others": [row for row in tray.rows if row.submission_blocker],
    }  # fmt: skip
    status = 422 if request.method == "POST" else 200
    return render(request, "stand/hand_in.html", context, status=status)


def _second_thoughts(takes: list[Take], form: HandInForm, tray: Tray) -> list[str]:
    """Return what is asked once before takes are handed in: what a copy does not show yet, what does not sound like the
    exercise, and what is far from the best take.
    """
    asked = []
    if unshown := _unshown(takes, form):
        asked.append(
            _("This copy does not show everything that is asked. Still missing: %(names)s.")
            % {"names": "; ".join(unshown)}
        )
    if not tray.shows_analysis:
        return asked
    chosen = {take.pk for take in takes}
    totals = {row.take: judged(row.take).judgement.total for row in form.rows if row.is_readable}
    others = [take for take in totals if take.pk not in chosen]
    best = max(others, key=lambda take: totals[take], default=None)
    for take in takes:
        if take not in totals:
            continue
        if any(fault.finding.code in NOT_THE_EXERCISE for fault in judged(take).judgement.faults):
            asked.append(_("Take %(n)s does not sound like this exercise.") % {"n": take.number})
        elif best is not None and totals[best] - totals[take] >= FAR_FROM_BEST:
            asked.append(
                _("Take %(best)s is clearly better than take %(n)s.")
                % {"best": best.number, "n": take.number}
            )
    return asked


def _unshown(takes: list[Take], form: HandInForm) -> list[str]:
    """Return the names of what the copies of the chosen takes do not show yet."""
    # Without any copy nothing is handed in: that is said by itself.
    chosen = {take.pk for take in takes if hasattr(take, "corrected")}
    lines = [line for row, lines in form.showings for line in lines if row.take.pk in chosen]
    return list(dict.fromkeys(line.name for line in lines if not line.shown.is_done))


def _hand_in(request: Request, student_terms: StudentTerms, takes: list[Take], form: HandInForm) -> str:
    """Hand in; why not, in words, or nothing."""
    try:
        hand_in: dict[str, Any] = {"note": form.cleaned_data["note"], "answers": form.answers()}
        if form.has_takes:
            service.hand_in(request.user, *takes, explained=form.explained(), **hand_in)
        else:
            service.hand_in_answers(request.user, student_terms.assignment, **hand_in)
    except service.NothingShown:
        return _("This take has no copy yet. Change a copy of it first: what is to be shown is shown there.")
    except service.TooFewTakes:
        return _("Record more takes before you hand one in.")
    except service.TooLate:
        return _("The due date has passed. What you handed in stays.")
    except service.Closed:
        return _("This exercise is closed: no more takes are accepted. Ask your teacher.")
    except service.NotToBeHandedIn:
        return _(
            "One of these takes cannot be handed in for this exercise. The takes that can are listed below."
        )
    except NotAllowed:
        return _("This exercise has been marked already, so nothing more can be handed in.")
    if not form.has_takes:
        messages.success(request, _("Your answers are handed in."))
        return ""
    numbers = ", ".join(str(take.number) for take in sorted(takes, key=lambda t: t.number))
    messages.success(
        request,
        ngettext("Take %(numbers)s has been handed in.", "Takes %(numbers)s have been handed in.", len(takes))
        % {"numbers": numbers},
    )
    return ""


@require_GET
@for_students
def receipt(request: Request, pk: int) -> HttpResponseBase:
    """What was handed in, when, and with which words: to be kept or printed."""
    student_terms = student_terms_or_404(request, pk)
    hand_in = get_object_or_404(HandIn, assignment=student_terms.assignment, student=request.user)
    tray = read_tray(request.user, student_terms)
    rows = [row for row in tray.rows if row.take.is_handed_in]
    is_asked_again = any(row.take.sheet.asked_again_at for row in rows)
    # What was handed in may have been recorded before the teacher gave the student another exercise instead.
    exercise = rows[0].take.exercise if rows else student_terms.exercise
    context = {
        "assignment": student_terms.assignment, "student_terms": student_terms, "exercise": exercise, "said": hand_in, "rows": rows, "tray": tray,
        "shown": [(row.take, lines_of(row.take.showing)) for row in rows if row.take.showing is not None],
        "conventions": conventions_of(request.user),
        "can_change": not tray.is_closed and (not student_terms.is_late(timezone.now()) or is_asked_again),
    }  # fmt: skip
    return render(request, "stand/receipt.html", context)
