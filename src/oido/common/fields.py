"""Choices of a form that are known only once it is made."""

from collections.abc import Iterable
from typing import Any

from django import forms


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
