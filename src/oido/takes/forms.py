"""What the Stand sends, checked before anything is stored."""

import json
import uuid
from typing import Any

from django import forms

from ear.errors import FormatError
from ear.formats.events import check_events
from oido.takes.models import Source
from oido.takes.services import NewTake

LATENCY_MAX_MS = 1000.0


class TakeForm(forms.Form):
    """One recorded take; `events` is a JSON list as `ear.formats.events` says."""

    id = forms.UUIDField()
    part = forms.IntegerField(min_value=1)
    source = forms.ChoiceField(choices=Source.choices)
    device = forms.CharField(max_length=120, required=False)
    latency_ms = forms.FloatField(min_value=-LATENCY_MAX_MS, max_value=LATENCY_MAX_MS)
    recorded_at = forms.DateTimeField(input_formats=["%Y-%m-%dT%H:%M:%S.%f%z"])
    events = forms.JSONField()

    def clean_events(self) -> Any:
        try:
            return check_events(self.cleaned_data["events"] or [])
        except FormatError as problem:
            raise forms.ValidationError(str(problem)) from problem

    def new_take(self) -> NewTake:
        c = self.cleaned_data
        return NewTake(
            id=uuid.UUID(str(c["id"])),
            part_id=c["part"],
            events=c["events"],
            source=c["source"],
            device=c["device"],
            latency_ms=c["latency_ms"],
            recorded_at=c["recorded_at"],
        )


def take_form_from_body(body: bytes) -> TakeForm:
    """A form from a JSON object; anything else gives a form that is invalid."""
    try:
        data = json.loads(body)
    except ValueError:
        data = {}
    if not isinstance(data, dict):
        data = {}
    if not isinstance(data.get("events"), str):
        data["events"] = json.dumps(data.get("events"))
    return TakeForm(data)
