"""Give an exercise: to whom, when, how; and what is arranged for one student."""

from datetime import date, datetime, timedelta
from typing import Any

from django import forms
from django.utils import timezone
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.practice.rules import MAX_ATTEMPTS, MAX_RANGE
from oido.assignments.models import MAX_WHY_LENGTH, Arrangement, Assignment, FeedbackVisibility, Late
from oido.assignments.services import Arranged, Terms
from oido.common.days import begin_of, due_on
from oido.common.fields import DateInWords, offer_rows
from oido.common.forms import FormData
from oido.exercises.models import Exercise
from oido.exercises.queries import library
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen
from oido.rubrics.models import RubricVersion
from oido.rubrics.queries import visible_rubrics

DUE_AFTER = timedelta(days=7)


def day_field(label: Any, *, required: bool = False, **more: Any) -> forms.DateField:
    widget = DateInWords()
    return forms.DateField(label=label, widget=widget, required=required, **more)


def _count(label: Any, most: int, help_text: Any, *, least: int = 0) -> forms.IntegerField:
    return forms.IntegerField(
        label=label, min_value=least, max_value=most, required=False, help_text=help_text
    )


class HowForm(forms.Form):
    """What holds for everybody it is given to."""

    opens_on = day_field(_("Open from"), help_text=_("Leave empty to open at once."))
    due_on = day_field(pgettext_lazy("label", "Due"), required=True, help_text=_("at the end of that day"))
    late = forms.ChoiceField(label=_("After the due date a take is"), choices=Late.choices)
    seen = forms.ChoiceField(label=_("Students see"), choices=FeedbackVisibility.choices)
    rubric = forms.ModelChoiceField(
        label=_("Marked by"), queryset=RubricVersion.objects.none(), required=False,
        empty_label=_("Oido’s own rubric"),
    )  # fmt: skip
    attempts = _count(_("Takes allowed"), MAX_ATTEMPTS, _("Leave empty to use the exercise’s own."), least=1)
    slower_percent = _count(
        _("How much slower at most (%)"), MAX_RANGE, _("Leave empty to use the exercise’s own.")
    )
    faster_percent = _count(
        _("How much faster at most (%)"), MAX_RANGE, _("Leave empty to use the exercise’s own.")
    )

    def __init__(
        self,
        data: FormData = None,
        *,
        teacher: User,
        kind: str,
        assignment: Assignment | None = None,
        **more: Any,
    ) -> None:
        super().__init__(data, **more)
        self.given = assignment
        if assignment is not None:
            # Another rubric marks all its takes again: that has a page of its own.
            del self.fields["rubric"]
            return
        rubrics = visible_rubrics(teacher).filter(kind=kind)
        offer_rows(
            self, "rubric", RubricVersion.objects.filter(current_of__in=rubrics).select_related("rubric")
        )
        self.fields["due_on"].initial = timezone.localdate() + DUE_AFTER

    @staticmethod
    def start(assignment: Assignment) -> dict[str, Any]:
        """What an assignment says, as initial values."""
        return {
            **{name: getattr(assignment, name) for name in Terms.__slots__},
            "opens_on": timezone.localtime(assignment.opens_at).date() if assignment.opens_at else None,
            "due_on": timezone.localtime(assignment.due_at).date(),
        }

    def clean_due_on(self) -> date:
        due: date = self.cleaned_data["due_on"]
        had = timezone.localtime(self.given.due_at).date() if self.given is not None else None
        if due < timezone.localdate() and due != had:
            raise forms.ValidationError(_("This day has passed already."))
        return due

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        opens, due = cleaned.get("opens_on"), cleaned.get("due_on")
        if opens and due and opens > due:
            self.add_error("opens_on", _("It opens after it is due."))
        return cleaned

    @property
    def terms(self) -> Terms:
        c = self.cleaned_data
        terms: dict[str, Any] = {name: c.get(name) for name in Terms.__slots__}
        return Terms(**terms)


class ToClassForm(forms.Form):
    """One class: all of it or some students, at its own dates where it has any."""

    chosen = forms.BooleanField(required=False)
    opens_on = day_field(_("Open from"))
    due_on = day_field(pgettext_lazy("label", "Due"))
    students = forms.ModelMultipleChoiceField(
        label=_("Only these"),
        queryset=User.objects.none(),
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )

    def __init__(
        self, data: FormData = None, *, school_class: SchoolClass, has_it: bool, **more: Any
    ) -> None:
        super().__init__(data, **more)
        self.school_class, self.has_it = school_class, has_it
        self.fields["chosen"].label = school_class.name
        people = school_class.students.order_by("last_name", "first_name", "pk")
        offer_rows(self, "students", people)
        self.fields["students"].label_from_instance = lambda choice: choice.name  # type: ignore[attr-defined]

    def clean_due_on(self) -> date | None:
        due: date | None = self.cleaned_data["due_on"]
        if due is not None and due < timezone.localdate():
            raise forms.ValidationError(_("This day has passed already."))
        return due

    def dates(self, how: dict[str, Any]) -> tuple[datetime | None, datetime]:
        """When it opens and when it is due: the class's own days, else those of all."""
        opens = self.cleaned_data.get("opens_on") or how["opens_on"]
        due = self.cleaned_data.get("due_on") or how["due_on"]
        return begin_of(opens) if opens else None, due_on(due)


class WeeklyForm(forms.Form):
    a_week = forms.IntegerField(
        label=_("Exercises a week"), min_value=1, max_value=20, required=False,
        help_text=_("Leave empty to give them all at once. Otherwise each week’s exercises open and are due a week after the ones before."),
    )  # fmt: skip


class ToWhom:
    """The classes that a teacher can give something to, each with its form."""

    def __init__(self, data: Any, *, teacher: User, holders: set[int], chosen: int | None = None) -> None:
        classes = list(classes_seen(teacher).filter(archived_at=None).prefetch_related("students"))
        if chosen is None and len(classes) == 1 and classes[0].pk not in holders:
            # Who teaches one class means that one.
            chosen = classes[0].pk
        self.forms = [
            ToClassForm(
                data, prefix=f"class-{one.pk}", school_class=one, has_it=one.pk in holders,
                initial={"chosen": one.pk == chosen},
            )
            for one in classes
        ]  # fmt: skip
        self.problem: Any = ""

    def is_valid(self, how: HowForm) -> bool:
        # Each is asked, so that each shows what is wrong in it.
        answers = [form.is_valid() for form in self.forms]
        valid = all(answers)
        if valid and not self.chosen:
            self.problem, valid = _("Choose a class, or students of one."), False
        if valid and how.is_valid():
            for form in self.chosen:
                opens, due = form.dates(how.cleaned_data)
                if opens is not None and opens >= due:
                    form.add_error("opens_on", _("It opens after it is due."))
                    valid = False
        return valid

    @property
    def chosen(self) -> list[ToClassForm]:
        """Who ticks students of a class means the class."""
        return [f for f in self.forms if f.cleaned_data.get("chosen") or f.cleaned_data.get("students")]


class ArrangeForm(forms.Form):
    """What holds for one student alone; empty fields are as for the others."""

    due_on = day_field(
        pgettext_lazy("label", "Due"), help_text=_("an earlier or later date for this student")
    )
    attempts = _count(_("Takes allowed"), MAX_ATTEMPTS, "", least=1)
    slower_percent = _count(_("How much slower at most (%)"), MAX_RANGE, "")
    version = forms.ModelChoiceField(
        label=_("Plays instead"), queryset=Exercise.objects.none(), required=False,
        help_text=_("an easier version, another key, one hand: any exercise of yours for this instrument"),
    )  # fmt: skip
    is_excused = forms.BooleanField(label=_("Excused: nothing has to be handed in"), required=False)
    excused_why = forms.CharField(label=_("Why excused"), max_length=MAX_WHY_LENGTH, required=False)

    def __init__(
        self,
        data: FormData = None,
        *,
        teacher: User,
        assignment: Assignment,
        row: Arrangement | None,
        **more: Any,
    ) -> None:
        initial: dict[str, Any] = {}
        if row is not None:
            names = ("attempts", "slower_percent", "version", "excused_why")
            initial = {name: getattr(row, name) for name in names}
            initial["is_excused"] = row.excused_at is not None
            initial["due_on"] = timezone.localtime(row.due_at).date() if row.due_at else None
        super().__init__(data, initial=initial, **more)
        own = (
            library(teacher)
            .filter(kind=assignment.exercise.kind, bars__gt=0)
            .exclude(pk=assignment.exercise_id)
        )
        kept = Exercise.objects.filter(pk=row.version_id) if row is not None and row.version_id else None
        offer_rows(self, "version", (own | kept if kept is not None else own).order_by("title"))

    def arranged(self) -> Arranged:
        c = self.cleaned_data
        return Arranged(
            is_excused=c["is_excused"], excused_why=c["excused_why"], attempts=c["attempts"],
            slower_percent=c["slower_percent"], version=c["version"],
            due_at=due_on(c["due_on"]) if c["due_on"] else None,
        )  # fmt: skip
