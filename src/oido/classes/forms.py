"""Give a class what another one was given."""

from datetime import date
from typing import Any

from django import forms
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from oido.assignments.forms import day_field
from oido.common.fields import offer_rows
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen


class GiveLikeForm(forms.Form):
    before = forms.ModelChoiceField(
        label=_("The same as"), queryset=SchoolClass.objects.none(), empty_label=None
    )
    first_due_on = day_field(_("The first is due on"), required=True)

    def __init__(self, *args: Any, teacher: User, school_class: SchoolClass, **more: Any) -> None:
        super().__init__(*args, **more)
        others = classes_seen(teacher).exclude(pk=school_class.pk).exclude(assignments=None)
        offer_rows(self, "before", others.distinct().order_by("archived_at", "name"))

    @property
    def has_any(self) -> bool:
        field = self.fields["before"]
        assert isinstance(field, forms.ModelChoiceField)
        return bool(field.queryset is not None and field.queryset.exists())

    def clean_first_due_on(self) -> date:
        first: date = self.cleaned_data["first_due_on"]
        if first < timezone.localdate():
            raise forms.ValidationError(_("This day has passed already."))
        return first
