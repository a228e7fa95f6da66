"""What a teacher writes at notes and over bars, on the Bench."""

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.editing import bars, signs
from ear.editing.edited import Edited, Selection
from ear.notation.placing import places
from ear.notes import Articulation, Part
from ear.notes.signs import MAX_TEXT_LENGTH
from oido.bench.tools.base import Tool, whole_field
from oido.bench.tools.single import DECIMALS, place_of, read_place
from oido.common.fields import offer
from oido.common.problems import PageProblem

CHORD, TEXT, SLUR, FERMATA, WAITING = "chord", "text", "slur", "fermata", "waiting"
ARTICULATIONS = (
    (Articulation.STACCATO.value, _("staccato")),
    (Articulation.TENUTO.value, _("tenuto")),
    (Articulation.ACCENT.value, _("accent")),
)


def _written_end(part: Part, selected: Selection) -> int:
    """Return where the last of the picked notes ends on paper."""
    return places(part, part.hand_numbers.tolist())[signs.last_of(part, selected)][1]


class SignsTool(Tool):
    """Chord names and words go to a beat; slurs, articulations and fermatas to the notes that are picked."""

    slug, title, button = "signs", _("Chord names and signs"), _("Write")

    kind = forms.ChoiceField(label=_("What to write"))
    text = forms.CharField(
        label=_("Chord name or words"), required=False, max_length=MAX_TEXT_LENGTH,
        help_text=_("such as Am7 or N.C.; leave it empty to remove what stands there"),
    )  # fmt: skip
    bar = whole_field(pgettext_lazy("label", "Bar"), 0, bars.MAX_BARS, 1, required=False)
    beat = forms.FloatField(
        label=_("Beat"), min_value=1, max_value=100, initial=1, required=False,
        help_text=_("of a chord name or words; the rest goes to the picked notes"),
    )  # fmt: skip

    def fit(self, part: Part) -> None:
        choices = [(TEXT, _("words over the bar"))]
        if part.instrument.has_key:
            choices.insert(0, (CHORD, _("chord name")))
        if part.instrument.has_length:
            choices += [(SLUR, _("slur")), *ARTICULATIONS]
        choices += [
            (WAITING, _("fermata; the click waits")), (FERMATA, _("fermata; the click carries on")),
        ]  # fmt: skip
        offer(self, "kind", choices)
        if self.selected:
            place = place_of(part, part.notes[min(self.selected)])
            self.initial = {**self.initial, "bar": place["bar"], "beat": round(place["beat"], DECIMALS)}

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        kind = c["kind"]
        if kind in (CHORD, TEXT):
            tick = read_place(part, c["bar"] or 1, c["beat"] or 1.0)
            if tick >= part.bars[-1].end_tick:
                raise PageProblem(_("That bar is outside the part."))
            if kind == CHORD:
                return signs.set_chord(part, tick=tick, name=c["text"])
            return signs.set_text(part, tick=tick, text=c["text"])
        if not selected:
            raise PageProblem(_("Pick the notes first."))
        if kind == SLUR:
            return signs.slur(part, selected)
        if kind in (FERMATA, WAITING):
            return signs.fermata(
                part, selected, waits_until=_written_end(part, selected) if kind == WAITING else None
            )
        return signs.articulate(part, selected, articulation=Articulation(kind))
