"""Fields and limits that forms of exercises share."""

from typing import Any

from django import forms
from django.utils.translation import pgettext_lazy

from ear.units import MAX_BPM, MIN_BPM


def tempo_field(**more: Any) -> forms.DecimalField:
    return forms.DecimalField(
        label=pgettext_lazy("label", "Tempo"),
        min_value=int(MIN_BPM),
        max_value=int(MAX_BPM),
        decimal_places=2,
        **more,
    )


METERS = ("4/4", "3/4", "2/4", "6/8", "12/8", "5/4")
"""Meters that a page can be set to."""
