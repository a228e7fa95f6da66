"""What the Stand sends, checked before anything is stored."""

import json
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.errors import FormatError
from ear.formats.events import TIME_MAX_MS, check_events
from ear.notes import STANDARD_KIT, Hand
from ear.notes.note import FIFTHS_MAX
from ear.practice.ladder import LOOPS_MOST, Rung
from ear.units import BPM_MAX, BPM_MIN, PITCH_MAX
from oido.common import problems
from oido.takes.models import NAME_MOST, WITHOUT_TOUCH, Source, WayChoice
from oido.takes.practice import PlayedLoop
from oido.takes.services import NewPass, NewTake

LATENCY_MAX_MS = 1000.0
ANSWER_MOST = 2000
RUNG_NEEDED = 80
SENT = tuple(source for source in Source.choices if source[0] != Source.FILE)
"""Sources that the Stand itself records from."""


class JsonForm(forms.Form):
    """A form of a JSON object; its lists and objects are fields of JSON."""

    @classmethod
    def from_body(cls, body: bytes, **more: Any) -> "JsonForm":
        """Anything but an object gives a form that is invalid."""
        try:
            data = json.loads(body)
        except ValueError:
            data = {}
        if not isinstance(data, dict):
            data = {}
        for name, field in cls.base_fields.items():
            if isinstance(field, forms.JSONField) and name in data and not isinstance(data[name], str):
                data[name] = json.dumps(data[name])
        return cls(data, **more)


class EventsForm(JsonForm):
    """Raw events, a JSON list as `ear.formats.events` says."""

    events = forms.JSONField(required=False)

    def clean_events(self) -> Any:
        try:
            return check_events(self.cleaned_data["events"] or [])
        except FormatError as problem:
            raise forms.ValidationError(problems.said(problem)) from problem


class RecordedForm(EventsForm):
    """What came from an instrument in one go."""

    id = forms.UUIDField()
    events = forms.JSONField()
    source = forms.ChoiceField(choices=SENT)
    device = forms.CharField(max_length=120, required=False)
    latency_ms = forms.FloatField(min_value=-LATENCY_MAX_MS, max_value=LATENCY_MAX_MS)
    recorded_at = forms.DateTimeField(input_formats=["%Y-%m-%dT%H:%M:%S.%f%z"])
    pads = forms.JSONField(required=False)

    def clean_pads(self) -> dict[int, int]:
        given = self.cleaned_data["pads"] or {}
        try:
            pads = {int(number): int(meant) for number, meant in given.items()}
        except (AttributeError, TypeError, ValueError):
            pads = {-1: -1}
        if any(not 0 <= number <= PITCH_MAX for pair in pads.items() for number in pair):
            raise forms.ValidationError(_("Pads are told as number to number, 0 to 127."))
        return pads

    def recorded(self) -> dict[str, Any]:
        return {
            name: self.cleaned_data[name]
            for name in ("id", "events", "source", "device", "latency_ms", "recorded_at", "pads")
        }


class TakeForm(RecordedForm):
    part = forms.IntegerField(min_value=1)
    tempo_bpm = forms.DecimalField(
        min_value=BPM_MIN, max_value=BPM_MAX, decimal_places=2, max_digits=5, required=False
    )
    fifths = forms.IntegerField(min_value=-FIFTHS_MAX, max_value=FIFTHS_MAX, required=False)
    heard_click = forms.NullBooleanField(required=False)

    def new_take(self) -> NewTake:
        c = self.cleaned_data
        return NewTake(
            **self.recorded(), part_id=c["part"], tempo_bpm=c["tempo_bpm"], fifths=c["fifths"],
            heard_click=c["heard_click"] is not False,
        )  # fmt: skip


class PassForm(RecordedForm):
    """A further pass; one without events only takes away."""

    events = forms.JSONField(required=False)
    way = forms.ChoiceField(choices=WayChoice.choices)
    from_ms = forms.FloatField(min_value=-TIME_MAX_MS, max_value=TIME_MAX_MS)
    until_ms = forms.FloatField(min_value=-TIME_MAX_MS, max_value=TIME_MAX_MS)
    lanes = forms.JSONField(required=False)
    """What it replaces, or all: lanes of a kit."""

    def clean_lanes(self) -> list[int]:
        lanes = self.cleaned_data["lanes"] or []
        known = {lane.name: lane.pitches for lane in STANDARD_KIT.lanes}
        if not isinstance(lanes, list) or any(
            not isinstance(name, str) or name not in known for name in lanes
        ):
            raise forms.ValidationError(_("Lanes are a list of names of the kit’s."))
        return sorted(pitch for name in lanes for pitch in known[name])

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if not self.errors and cleaned["from_ms"] >= cleaned["until_ms"]:
            self.add_error("until_ms", _("A pass goes from a place to a later one."))
        return cleaned

    def new_pass(self) -> NewPass:
        c = self.cleaned_data
        return NewPass(
            **self.recorded(),
            way=c["way"],
            from_ms=c["from_ms"],
            until_ms=c["until_ms"],
            pitches=c["lanes"],
        )


class LoopForm(EventsForm):
    """One loop: of a rung by its number, or of bars that somebody chose."""

    rung = forms.IntegerField(min_value=1, required=False)
    first_bar = forms.IntegerField(min_value=1)
    last_bar = forms.IntegerField(min_value=1)
    hand = forms.ChoiceField(choices=[(hand.value, hand.value) for hand in Hand], required=False)
    lanes = forms.JSONField(required=False)
    bpm = forms.FloatField(min_value=BPM_MIN, max_value=BPM_MAX)
    fifths = forms.IntegerField(min_value=-FIFTHS_MAX, max_value=FIFTHS_MAX)
    latency_ms = forms.FloatField(min_value=-LATENCY_MAX_MS, max_value=LATENCY_MAX_MS)
    source = forms.ChoiceField(choices=SENT)

    def clean_lanes(self) -> tuple[str, ...]:
        lanes = self.cleaned_data["lanes"] or []
        return tuple(str(lane) for lane in lanes) if isinstance(lanes, list) else ()

    def chosen(self) -> Rung:
        """The bars that were chosen, as a rung of their own. Raises ValueOutOfRange."""
        c = self.cleaned_data
        return Rung(
            name="chosen", first_bar=c["first_bar"], last_bar=c["last_bar"], hand=Hand(c["hand"]) if c["hand"] else None,
            lanes=c["lanes"], loops=LOOPS_MOST, needed=RUNG_NEEDED, needed_loops=1,
        )  # fmt: skip

    def played(self) -> PlayedLoop:
        c = self.cleaned_data
        return PlayedLoop(
            events=c["events"], bpm=c["bpm"], fifths=c["fifths"], latency_ms=c["latency_ms"],
            has_touch=c["source"] not in WITHOUT_TOUCH,
        )  # fmt: skip


class TapsForm(JsonForm):
    """Taps along with a click: times in ms on one clock."""

    taps = forms.JSONField(required=False)
    beats = forms.JSONField(required=False)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        for name in ("taps", "beats"):
            times = cleaned.get(name) or []
            is_list = isinstance(times, list) and len(times) <= 200
            if not is_list or any(
                isinstance(t, bool) or not isinstance(t, int | float) or abs(t) > 1e9 for t in times
            ):
                self.add_error(name, _("Times are a list of numbers."))
            cleaned[name] = times
        return cleaned


class NameForm(forms.Form):
    name = forms.CharField(label=_("name"), required=False, max_length=NAME_MOST)
