"""The page of components, for those who build pages: only where debugging is on."""

from django import forms
from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy
from django.views.decorators.http import require_GET

from ear.drawing.page import page_view
from ear.labels import LabelKind
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.notes.pedal import PedalMark
from ear.units import TICKS_PER_QUARTER

WIDTH = 860.0
"""px of the sample's own width."""
TONES = ("early", "late", "wrong", "plain")
TUNE = (60, 64, 67, 64, 65, 62, 60)


class SampleForm(forms.Form):
    """Each kind of field, and one that is wrong."""

    title = forms.CharField(label=pgettext_lazy("label", "Title"), help_text=_("Shown to students."))
    tempo = forms.IntegerField(label=pgettext_lazy("label", "Tempo"), max_value=300)
    of = forms.ChoiceField(
        label=pgettext_lazy("label", "Hand"),
        choices=(("", _("both")), ("right", pgettext_lazy("timing", "right"))),
        required=False,
    )
    note = forms.CharField(label=_("Instructions"), widget=forms.Textarea(attrs={"rows": 2}), required=False)


def _sample_part() -> Part:
    notes = [
        Note(
            onset_tick=k * TICKS_PER_QUARTER, length_tick=TICKS_PER_QUARTER - 20, pitch=pitch,
            velocity=96 if k % 4 == 0 else 72, hand=Hand.RIGHT,
        )
        for k, pitch in enumerate(TUNE)
    ]  # fmt: skip
    pedal = (PedalMark(start_tick=0, end_tick=4 * TICKS_PER_QUARTER),)
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(96.0), pedal=pedal)


@require_GET
def style(request: HttpRequest) -> HttpResponse:
    """Answer with the page that shows all recurring components."""
    if not settings.DEBUG:
        raise Http404
    form = SampleForm({"title": "Slack Water", "tempo": "9999"})
    page = page_view(_sample_part(), width=WIDTH, labels=(LabelKind.NAMES,), with_weight=True)
    return render(request, "style.html", {"form": form, "page": page, "tones": TONES, "shades": range(4)})
