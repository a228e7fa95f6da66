"""A column of the gradebook, and one cell."""

from typing import Any

from django import forms
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext_lazy

from oido.assignments.forms import day_field
from oido.common.forms import FormData
from oido.gradebook.book import BookColumn
from oido.gradebook.models import MAX_NAME_LENGTH, MAX_TEXT_LENGTH, MAX_WHY_LENGTH
from oido.gradebook.services import MAX_OUT_OF, MAX_WEIGHT, NotAMark, Typed, read_typed


class ColumnForm(forms.Form):
    """Of an assignment only its weight can be said."""

    name = forms.CharField(label=pgettext_lazy("label", "Name"), max_length=MAX_NAME_LENGTH)
    on = day_field(gettext_lazy("Day"), required=True)
    out_of = forms.IntegerField(label=gettext_lazy("Out of"), min_value=1, max_value=MAX_OUT_OF, initial=100)
    weight = forms.DecimalField(
        label=gettext_lazy("Weight"), min_value=0, max_value=int(MAX_WEIGHT), decimal_places=2, initial=1,
        help_text=gettext_lazy("Relative to the other columns. 0 leaves it out of the mean."),
    )  # fmt: skip

    def __init__(self, data: FormData = None, *, column: BookColumn | None = None, **more: Any) -> None:
        initial: dict[str, object] = {"on": timezone.localdate()}
        if column is not None:
            initial = {
                "name": column.title,
                "on": column.day,
                "out_of": column.out_of,
                "weight": column.weight,
            }
        super().__init__(data, initial=initial, **more)
        if column is not None and column.assignment is not None:
            for name in ("name", "on", "out_of"):
                del self.fields[name]


class CellForm(forms.Form):
    typed = forms.CharField(
        label=pgettext_lazy("label", "Mark"), max_length=12, required=False,
        help_text=gettext_lazy("A number, e for excused or m for missing. Leave empty to use Oido’s mark."),
    )  # fmt: skip
    why = forms.CharField(label=pgettext_lazy("label", "Why"), max_length=MAX_WHY_LENGTH, required=False)

    def __init__(self, data: FormData = None, *, out_of: int, **more: Any) -> None:
        super().__init__(data, **more)
        self.out_of = out_of

    def clean_typed(self) -> Typed | None:
        try:
            return read_typed(self.cleaned_data["typed"], out_of=self.out_of)
        except NotAMark as problem:
            raise forms.ValidationError(
                _("Type a number from 0 to %(n)s, e for excused, m for missing, or nothing.")
                % {"n": self.out_of}
            ) from problem


class TextForm(forms.Form):
    text = forms.CharField(
        label=gettext_lazy("For the report"), max_length=MAX_TEXT_LENGTH, required=False,
        widget=forms.Textarea(attrs={"rows": 4}),
    )  # fmt: skip
