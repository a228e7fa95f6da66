"""A booklet's words, a set of variations, a booklet from elsewhere."""

from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext_lazy

from ear.editing.variations import ON_BEATS, RHYTHMS
from ear.errors import EarError
from ear.notes import Hand
from ear.words.keys import describe_key
from oido.booklets.bundle import read_booklet
from oido.booklets.models import MAX_TEXT_LENGTH, Booklet
from oido.booklets.services import HAND_NAMES, SetOf
from oido.common.fields import offer
from oido.common.forms import FormData, ModelForm
from oido.common.problems import error_message
from oido.common.readers import usual_reader
from oido.exercises.models import MAX_TITLE_LENGTH, Exercise

PERCENTS = (50, 60, 70, 80, 90, 110, 120)
MAX_BYTES = 20_000_000


class BookletForm(ModelForm[Booklet]):
    class Meta:
        model = Booklet
        fields = ["title", "text", "is_shared"]
        widgets = {"text": forms.Textarea(attrs={"rows": 3})}


class ItemForm(forms.Form):
    heading = forms.CharField(label=gettext_lazy("Heading"), max_length=MAX_TITLE_LENGTH, required=False)
    text = forms.CharField(
        label=gettext_lazy("Text"),
        max_length=MAX_TEXT_LENGTH,
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
    )


class SetForm(forms.Form):
    """What of a set is made; each tick is an exercise."""

    title = forms.CharField(label=gettext_lazy("The booklet is called"), max_length=MAX_TITLE_LENGTH)
    with_source = forms.BooleanField(
        label=gettext_lazy("begins with the exercise itself"), required=False, initial=True
    )
    rhythms = forms.MultipleChoiceField(
        label=gettext_lazy("Rhythms"), required=False, widget=forms.CheckboxSelectMultiple
    )
    keys = forms.TypedMultipleChoiceField(
        label=pgettext_lazy("label", "Keys"), required=False, coerce=int, widget=forms.CheckboxSelectMultiple
    )
    hands = forms.MultipleChoiceField(
        label=gettext_lazy("Hands alone"), required=False, widget=forms.CheckboxSelectMultiple,
        choices=[(hand.value, name) for hand, name in HAND_NAMES.items()],
    )  # fmt: skip
    percents = forms.TypedMultipleChoiceField(
        label=gettext_lazy("Tempos"), required=False, coerce=int, widget=forms.CheckboxSelectMultiple
    )
    is_easier = forms.BooleanField(label=gettext_lazy("easier: only what is on a beat"), required=False)

    def __init__(self, data: FormData = None, *, source: Exercise, say: Any, **more: Any) -> None:
        super().__init__(data, **more)
        self.fields["title"].initial = _("%(title)s, a set") % {
            "title": source.title[: MAX_TITLE_LENGTH - 20]
        }
        part, bpm = source.part_in_force.read(), float(source.tempo_bpm)
        offer(self, "rhythms", [(rule.key, say(rule.name)) for rule in RHYTHMS])
        offer(
            self,
            "percents",
            [(p, _("%(bpm)s (%(p)s%%)") % {"bpm": round(bpm * p / 100), "p": p}) for p in PERCENTS],
        )
        offer(
            self,
            "keys",
            [
                (fifths, describe_key(fifths, usual_reader()))
                for fifths in range(-6, 7)
                if fifths != part.fifths
            ],
        )
        if not part.instrument.has_key:
            del self.fields["keys"]
        if len({n.hand for n in part.notes if n.hand}) < 2:
            del self.fields["hands"]

    def clean(self) -> dict[str, object]:
        cleaned = super().clean() or {}
        names = ("rhythms", "keys", "hands", "percents", "is_easier")
        if not self.errors and not any(cleaned.get(name) for name in names):
            raise forms.ValidationError(_("Tick what the set is to be made of."))
        return cleaned

    def wanted(self) -> SetOf:
        c = self.cleaned_data
        rhythms = [*c["rhythms"], *([ON_BEATS.key] if c["is_easier"] else [])]
        return SetOf(
            rhythms=rhythms, keys=c.get("keys", ()), percents=c["percents"],
            hands=[Hand(one) for one in c.get("hands", ())],
        )  # fmt: skip


class BookletFileForm(forms.Form):
    file = forms.FileField(
        label=pgettext_lazy("label", "File"), help_text=gettext_lazy("a booklet from another Oido (.zip)")
    )

    content = b""

    def clean_file(self) -> Any:
        file = self.cleaned_data["file"]
        if file.size > MAX_BYTES:
            raise forms.ValidationError(_("This file is too large for a booklet (over 20 MB)."))
        self.content = file.read()
        try:
            read_booklet(self.content)
        except EarError as problem:
            raise forms.ValidationError(error_message(problem)) from problem
        return file
