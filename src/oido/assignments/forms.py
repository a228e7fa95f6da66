from datetime import timedelta
from typing import Any

from django import forms
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from oido.common.fields import offer_rows
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen
from oido.rubrics.models import RubricVersion
from oido.rubrics.queries import visible_rubrics

DUE_AFTER = timedelta(days=7)


class GiveForm(forms.Form):
    """Give an exercise to one of the teacher's classes; due at the end of a day."""

    school_class = forms.ModelChoiceField(
        label=_("Class"), queryset=SchoolClass.objects.none(), empty_label=None
    )
    due_on = forms.DateField(
        label=_("Due"), widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )

    rubric = forms.ModelChoiceField(
        label=_("Marked by"), queryset=RubricVersion.objects.none(), required=False,
        empty_label=_("Oido’s own rubric"),
    )  # fmt: skip
    releases_at_once = forms.BooleanField(label=_("Students see their mark at once"), required=False)

    def __init__(self, *args: Any, teacher: User, kind: str, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        rubrics = visible_rubrics(teacher).filter(kind=kind)
        offer_rows(
            self, "rubric", RubricVersion.objects.filter(current_of__in=rubrics).select_related("rubric")
        )
        offer_rows(self, "school_class", classes_seen(teacher).filter(archived_at=None))
        self.fields["due_on"].initial = timezone.localdate() + DUE_AFTER

    def clean_due_on(self) -> Any:
        due = self.cleaned_data["due_on"]
        if due < timezone.localdate():
            raise forms.ValidationError(_("This day has passed already."))
        return due
