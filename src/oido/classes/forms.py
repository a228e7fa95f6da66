"""Give a class what another one was given."""

from datetime import date
from typing import Any

from django import forms
from django.db.models import Exists, OuterRef
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from oido.assignments.forms import day_field
from oido.assignments.models import Assignment
from oido.common.fields import offer, offer_rows
from oido.common.forms import FormData
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen


def _current_first(school_class: SchoolClass) -> tuple[bool, str, str]:
    archived = school_class.archived_at
    return archived is not None, archived.isoformat() if archived else "", school_class.name


class GiveLikeForm(forms.Form):
    before = forms.ModelChoiceField(
        label=_("The same as"), queryset=SchoolClass.objects.none(), empty_label=None
    )
    first_due_on = day_field(_("The first is due on"), required=True)

    def __init__(
        self, data: FormData = None, *, teacher: User, school_class: SchoolClass, **more: Any
    ) -> None:
        super().__init__(data, **more)
        others = classes_seen(teacher).exclude(pk=school_class.pk)
        offer_rows(self, "before", others.exclude(assignments=None).distinct())
        has_assignments = Exists(Assignment.objects.filter(school_class=OuterRef("pk")))
        # Read once, however often the page asks.
        self.others = list(others.annotate(has_assignments=has_assignments))
        offered = sorted((other for other in self.others if other.has_assignments), key=_current_first)
        offer(self, "before", [(other.pk, str(other)) for other in offered])
        self.has_any = bool(offered)

    def clean_first_due_on(self) -> date:
        first: date = self.cleaned_data["first_due_on"]
        if first < timezone.localdate():
            raise forms.ValidationError(_("This day has passed already."))
        return first
