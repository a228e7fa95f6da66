"""Fields that several forms share: choices that are known only once a form is made, and dates in words."""

from collections.abc import Iterable
from typing import Any

from django import forms
from django.utils.dateparse import parse_date
from django.utils.formats import date_format
from django.utils.html import format_html
from django.utils.safestring import SafeString


def offer(form: forms.BaseForm, name: str, choices: Iterable[Any]) -> None:
    """Give a field of choices what there is to choose."""
    field = form.fields[name]
    assert isinstance(field, forms.ChoiceField)
    field.choices = list(choices)


def offer_rows(form: forms.BaseForm, name: str, rows: Any) -> None:
    """Give a field of stored things those that there are to choose."""
    field = form.fields[name]
    assert isinstance(field, forms.ModelChoiceField)
    field.queryset = rows


class DateInWords(forms.DateInput):
    """A date field with the day and the date in words under it: browsers write dates each in its own way."""

    def __init__(self, attrs: dict[str, object] | None = None) -> None:
        super().__init__(attrs={"type": "date", **(attrs or {})}, format="%Y-%m-%d")

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        field = super().render(name, value, attrs, renderer)
        try:
            day = parse_date(str(self.format_value(value) or ""))
        except ValueError:
            day = None
        words = date_format(day, "LONG_DATE") if day is not None else ""
        return format_html(
            '{}<span class="date-words" data-date-words="{}" aria-live="polite">{}</span>', field, name, words
        )
