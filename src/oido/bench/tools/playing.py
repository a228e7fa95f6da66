"""A pass that was played in."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.editing.edited import Edited, Selection
from ear.editing.playing_in import MAX_TEMPO, MIN_TEMPO, play_in
from ear.errors import FormatError
from ear.formats.events import check_events, take_from_events
from ear.notes import Part
from oido.bench.tools.base import GRIDS, HAND_CHOICES, Tool, hand_named, named, whole_field
from oido.common import problems
from oido.common.fields import offer


class PlayTool(Tool):
    """What was recorded against the click: raw events from the downbeat of the first bar."""

    slug, title = "play", _("Play it in")

    first_bar = whole_field(_("First bar"), 0, 400, 1)
    last_bar = whole_field(_("Last bar"), 0, 400, 1)
    tempo = whole_field(_("Tempo, %"), MIN_TEMPO, MAX_TEMPO, 100)
    way = forms.ChoiceField(
        label=pgettext_lazy("label", "Recording"),
        choices=(("over", _("adds to what is there")), ("replace", _("replaces what is there"))),
    )
    grid = forms.ChoiceField(label=_("Quantise to"), required=False)
    hand = forms.ChoiceField(
        label=pgettext_lazy("label", "Hand"),
        choices=(("", pgettext_lazy("choice", "none")), *HAND_CHOICES),
        required=False,
    )
    events = forms.JSONField(widget=forms.HiddenInput)

    def fit(self, part: Part) -> None:
        self.fields["last_bar"].initial = part.last_bar
        if part.instrument.has_lanes:
            del self.fields["hand"]
        offer(
            self,
            "grid",
            [
                ("", _("nothing, as played")),
                *((str(ticks), name) for ticks, name in named(GRIDS, self.conventions)),
            ],
        )

    def clean_events(self) -> Any:
        try:
            return check_events(self.cleaned_data["events"] or [])
        except FormatError as problem:
            raise forms.ValidationError(problems.error_message(problem)) from problem

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        return play_in(
            part, take_from_events(c["events"]), first_bar=c["first_bar"],
            last_bar=min(c["last_bar"], part.last_bar), tempo_percent=c["tempo"], replaces=c["way"] == "replace",
            hand=hand_named(c.get("hand", "")), grid_ticks=int(c["grid"]) if c["grid"] else None,
        )  # fmt: skip
