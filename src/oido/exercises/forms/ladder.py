"""One rung of a ladder, as it is set where it stands."""

from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext_lazy

from ear.errors import EarError
from ear.notes import Hand, Part
from ear.practice.ladder import MAX_LOOPS, MAX_NAME_LENGTH, MAX_TEMPO, MIN_TEMPO, Rung
from oido.common.fields import offer
from oido.common.forms import FormData
from oido.common.problems import add_problem
from oido.exercises.pages import lanes_of, voices_of

BOTH = ""
HANDS = {Hand.RIGHT: gettext_lazy("the right hand"), Hand.LEFT: gettext_lazy("the left hand")}
TEMPO_WORDS = ((60, gettext_lazy("slowly")), (80, gettext_lazy("a little slower")), (100, gettext_lazy("at tempo")), (110, gettext_lazy("a little faster")))  # fmt: skip


class RungForm(forms.Form):
    """Which bars, of which hand or lanes, how fast, how often and how well."""

    name = forms.CharField(label=pgettext_lazy("label", "Name"), max_length=MAX_NAME_LENGTH)
    first_bar = forms.IntegerField(label=gettext_lazy("First bar"), min_value=1)
    last_bar = forms.IntegerField(label=gettext_lazy("Last bar"), min_value=1)
    hand = forms.ChoiceField(label=gettext_lazy("Hands"), required=False, widget=forms.RadioSelect)
    lanes = forms.MultipleChoiceField(
        label=gettext_lazy("Lanes"),
        required=False,
        widget=forms.CheckboxSelectMultiple,
        help_text=gettext_lazy("None chosen: all."),
    )
    moves = forms.RegexField(
        r"^\d{1,2}(\s*-\s*\d{1,2})?$", label=gettext_lazy("Moves in the bar"), required=False,
        help_text=gettext_lazy("A move is what hands and feet play at the same moment. Count them from 1: 2, or 1-3. Leave empty for all."),
    )  # fmt: skip
    tempo_percent = forms.IntegerField(
        label=gettext_lazy("Tempo, %"), min_value=MIN_TEMPO, max_value=MAX_TEMPO
    )
    loops = forms.IntegerField(label=gettext_lazy("Loops"), min_value=1, max_value=MAX_LOOPS)
    needed_loops = forms.IntegerField(
        label=gettext_lazy("Clean loops in a row"), min_value=1, max_value=MAX_LOOPS
    )
    needed = forms.IntegerField(label=gettext_lazy("Points needed"), min_value=0, max_value=100)
    own_pace = forms.BooleanField(
        label=gettext_lazy("At the student’s own pace, without a wrong key"),
        required=False,
        help_text=gettext_lazy("The music waits for the right keys. Tempo and points do not count."),
    )

    def __init__(
        self, data: FormData = None, *, part: Part, rung: Rung, is_free: bool = False, **more: Any
    ) -> None:
        super().__init__(data, initial=_start(rung), prefix="rung", **more)
        self.part = part
        bars = part.last_bar
        for name in ("first_bar", "last_bar"):
            self.fields[name] = forms.IntegerField(
                label=self.fields[name].label, min_value=part.first_bar, max_value=bars, error_messages={
                    "max_value": _("This part has bars 1 to %(bars)s.") % {"bars": bars}
                },
            )  # fmt: skip
        if is_free:
            # The music cannot wait for keys that nobody has written.
            del self.fields["hand"], self.fields["lanes"], self.fields["moves"], self.fields["own_pace"]
        elif part.instrument.has_lanes:
            del self.fields["hand"]
            lanes = {name: name for name in rung.lanes} | dict(lanes_of(part))
            offer(self, "lanes", [(lane, _(name)) for lane, name in lanes.items()])
        else:
            del self.fields["lanes"], self.fields["moves"]
            if voices_of(part) or rung.hand:
                offer(
                    self,
                    "hand",
                    [(BOTH, _("both hands")), *((hand.value, name) for hand, name in HANDS.items())],
                )
            else:
                del self.fields["hand"]
        self.fields["tempo_percent"].widget.attrs["list"] = "tempo-words"

    def clean(self) -> dict[str, object]:
        cleaned = super().clean() or {}
        if not self.errors:
            try:
                self.rung()
            except EarError as problem:
                add_problem(self, problem)
        return cleaned

    def rung(self) -> Rung:
        """Return the rung. Raise ValueOutOfRange for values that do not go together."""
        c = self.cleaned_data
        first, _dash, last = c.get("moves", "").partition("-")
        hand = c.get("hand")
        return Rung(
            name=c["name"], first_bar=c["first_bar"], last_bar=c["last_bar"], hand=Hand(hand) if hand else None,
            lanes=tuple(c.get("lanes", ())), moves=(int(first), int(last or first)) if first else None,
            tempo_percent=c["tempo_percent"], loops=c["loops"], needed_loops=c["needed_loops"], needed=c["needed"],
            own_pace=c.get("own_pace", False),
        )  # fmt: skip


def _start(rung: Rung) -> dict[str, object]:
    span = rung.moves
    return {
        "name": rung.name, "first_bar": rung.first_bar, "last_bar": rung.last_bar,
        "hand": rung.hand.value if rung.hand else BOTH, "lanes": list(rung.lanes),
        "moves": "" if span is None else f"{span[0]}" if span[0] == span[1] else f"{span[0]}-{span[1]}",
        "tempo_percent": rung.tempo_percent, "loops": rung.loops, "needed_loops": rung.needed_loops,
        "needed": rung.needed, "own_pace": rung.own_pace,
    }  # fmt: skip
