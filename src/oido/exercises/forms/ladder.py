"""The ladder, rung by rung."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.editing.bars import BARS_MOST
from ear.errors import EarError
from ear.notes import STANDARD_KIT, Hand, Part
from ear.practice.ladder import RUNGS_MOST, Ladder, Rung
from oido.common.problems import add_problem


class RungForm(forms.Form):
    """One rung of a ladder."""

    name = forms.CharField(label=_("rung"), max_length=80)
    first_bar = forms.IntegerField(label=_("from bar"), min_value=1, max_value=BARS_MOST)
    last_bar = forms.IntegerField(label=_("to bar"), min_value=1, max_value=BARS_MOST)
    of = forms.CharField(label=_("of"), required=False, max_length=120)
    movements = forms.RegexField(r"^(\d{1,2})(-\d{1,2})?$", label=_("moves"), required=False)
    tempo_percent = forms.IntegerField(label=_("tempo, %"), min_value=30, max_value=150)
    loops = forms.IntegerField(label=_("loops"), min_value=1, max_value=16)
    needed_loops = forms.IntegerField(label=_("clean"), min_value=1, max_value=16)
    needed = forms.IntegerField(label=_("points"), min_value=0, max_value=100)

    @staticmethod
    def start(rung: Rung) -> dict[str, Any]:
        of = rung.hand.value if rung.hand else ", ".join(rung.lanes)
        span = rung.movements
        return {
            "name": rung.name, "first_bar": rung.first_bar, "last_bar": rung.last_bar, "of": of,
            "movements": "" if span is None else f"{span[0]}" if span[0] == span[1] else f"{span[0]}-{span[1]}",
            "tempo_percent": rung.tempo_percent, "loops": rung.loops, "needed_loops": rung.needed_loops,
            "needed": rung.needed,
        }  # fmt: skip

    def clean_of(self) -> str:
        words = [word.strip().lower() for word in self.cleaned_data["of"].split(",") if word.strip()]
        lanes = {lane.name for lane in STANDARD_KIT.lanes}
        if len(words) == 1 and words[0] in set(Hand):
            return words[0]
        unknown = [word for word in words if word not in lanes]
        if unknown:
            raise forms.ValidationError(
                _("“%(word)s” is neither a hand (right, left) nor a lane such as snare."),
                params={"word": unknown[0]},
            )
        return ",".join(words)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if not self.errors and not self.cleaned_data.get("DELETE"):
            try:
                self.rung()
            except EarError as problem:
                add_problem(self, problem)
        return cleaned

    def rung(self) -> Rung:
        c = self.cleaned_data
        words = [word for word in c["of"].split(",") if word]
        is_hand = len(words) == 1 and words[0] in {hand.value for hand in Hand}
        first, _dash, last = c["movements"].partition("-")
        return Rung(
            name=c["name"], first_bar=c["first_bar"], last_bar=c["last_bar"], hand=Hand(words[0]) if is_hand else None,
            lanes=() if is_hand else tuple(words), movements=(int(first), int(last or first)) if first else None,
            tempo_percent=c["tempo_percent"], loops=c["loops"], needed=c["needed"], needed_loops=c["needed_loops"],
        )  # fmt: skip


class _Rungs(forms.BaseFormSet):
    """Rungs in the order that their numbers give them."""

    part: Part | None = None

    def add_fields(self, form: forms.Form, index: int | None) -> None:
        super().add_fields(form, index)
        # They stand in a table: its head says to the eye what each says to the ear.
        for field in form.fields.values():
            field.widget.attrs["aria-label"] = field.label

    def clean(self) -> None:
        if self.part is None:
            return
        bars = len(self.part.bars)
        for form in self.forms:
            is_kept = form.cleaned_data and not form.cleaned_data.get("DELETE") and not form.errors
            if is_kept and form.cleaned_data["last_bar"] > bars:
                form.add_error("last_bar", _("This part has bars 1 to %(bars)s.") % {"bars": bars})

    def ladder(self) -> Ladder:
        """Raises nothing: the rungs are valid, and no more than a ladder holds."""
        return Ladder(
            rungs=tuple(form.rung() for form in self.ordered_forms if form.has_changed() or form.initial)
        )


RungFormSet = forms.formset_factory(
    RungForm, formset=_Rungs, extra=1, can_order=True, can_delete=True, max_num=RUNGS_MOST, validate_max=True
)
