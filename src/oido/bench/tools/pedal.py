"""The sustain pedal on the Bench."""

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.editing import pedal
from ear.editing.edited import Edited, Selection
from ear.editing.pedal import ChangeAt
from ear.notes import Part
from oido.bench.tools.base import Tool, whole_field

LIFT = "lift"


class PedalTool(Tool):
    slug, title, needs = "pedal", _("Pedal"), "has_pedal"

    first_bar = whole_field(_("First bar"), 0, 999, 1)
    last_bar = whole_field(_("Last bar"), 0, 999)
    how = forms.ChoiceField(
        label=_("lift and press again"),
        choices=(
            (ChangeAt.CHORDS.value, _("with each chord name")),
            (ChangeAt.BARS.value, _("in every bar")),
            (ChangeAt.BEATS.value, _("on every beat")),
            (ChangeAt.NOTES.value, _("at the picked notes")),
            (ChangeAt.NOWHERE.value, _("at the end only")),
            (LIFT, _("no pedal")),
        ),
    )

    def fit(self, part: Part) -> None:
        bars = part.last_bar
        self.fields["last_bar"].initial = bars
        if not part.chords:
            self.fields["how"].initial = ChangeAt.BARS.value
        for name in ("first_bar", "last_bar"):
            self.fields[name].widget.attrs["max"] = bars

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        bars = {"first_bar": c["first_bar"], "last_bar": c["last_bar"]}
        if c["how"] == LIFT:
            return pedal.lift_pedal(part, **bars, selection=selected)
        return pedal.hold_pedal(part, **bars, change_at=ChangeAt(c["how"]), selection=selected)
