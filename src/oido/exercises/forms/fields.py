"""Fields and limits that forms of exercises share."""

from typing import Any

from django import forms
from django.utils.translation import pgettext_lazy

from ear.notes import Meter
from ear.units import MAX_BPM, MIN_BPM


def tempo_field(**more: Any) -> forms.DecimalField:
    return forms.DecimalField(
        label=pgettext_lazy("label", "Tempo"),
        min_value=int(MIN_BPM),
        max_value=int(MAX_BPM),
        decimal_places=2,
        **more,
    )


METERS = (
    "4/4", "3/4", "2/4", "2/2", "6/8", "9/8", "12/8", "3/8", "5/4", "6/4", "5/8 3+2", "5/8 2+3", "7/8 2+2+3", "7/8 3+2+2",
    "7/8 2+3+2", "8/8 3+3+2",
)  # fmt: skip
"""Time signatures to choose from; uneven ones with the groups in which they are counted."""


def meter_text(meter: Meter) -> str:
    """Return the metre as METERS say it."""
    groups = f" {'+'.join(map(str, meter.groups))}" if meter.groups else ""
    return f"{meter.numerator}/{meter.denominator}{groups}"


def read_meter(text: str) -> Meter:
    """Return the metre that one of METERS says."""
    signature, _space, groups = text.partition(" ")
    over, under = map(int, signature.split("/"))
    return Meter(
        numerator=over, denominator=under, groups=tuple(map(int, groups.split("+"))) if groups else ()
    )


"""Meters that a page can be set to."""
