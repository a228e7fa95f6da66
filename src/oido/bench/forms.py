"""Begin an exercise on the Bench: an empty page or a pattern."""

from decimal import Decimal
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.criteria.levels import LEVELS
from ear.editing.bars import MAX_BARS
from ear.editing.edited import ALL
from ear.editing.quantise import suggested_step
from ear.editing.step_grid import StepGrid, step_grid
from ear.errors import EarError
from ear.labels import PLAIN, Conventions
from ear.notes import Hand, Kind, Meter, MeterMap, Part, TempoMap
from ear.notes.note import MAX_FIFTHS
from ear.patterns.beats import BEATS
from ear.patterns.chords import ROMAN, Chord, Key, Voicing, chord_sequence, read_sequence
from ear.patterns.lines import VELOCITY, LineDirection, LineShape, arpeggio, five_finger, intervals, scale
from ear.patterns.modes import Mode, Tonic, key_name
from ear.units import MAX_BPM, MIN_BPM
from oido.bench.tools.base import HAND_CHOICES, name_values, value_field
from oido.common.forms import FormData, ModelForm
from oido.common.problems import add_problem
from oido.exercises.forms.fields import METERS
from oido.exercises.models import Exercise
from oido.exercises.services import NewExercise

MAX_EMPTY_BARS = 64
GRID_BARS = 2
COUNT_IN, BEGINNERS_COUNT_IN = 1, 2
BEGINNERS_LEVEL = next(iter(LEVELS))

WAYS = (
    ("empty", _("an empty page for keyboard")),
    ("empty-drums", _("an empty page for drums")),
    ("fingers", _("a five-finger position")),
    ("scale", _("a scale")),
    ("arpeggio", _("an arpeggio")),
    ("intervals", _("intervals")),
    ("chords", _("a chord sequence")),
    ("beat", _("a beat")),
)


def usual_count_in(level: str) -> int:
    """Bars of count-in that teachers give: beginners need two."""
    return BEGINNERS_COUNT_IN if level == BEGINNERS_LEVEL else COUNT_IN


EMPTY = {"empty": Kind.KEYBOARD, "empty-drums": Kind.DRUMS}


class BeginForm(ModelForm[Exercise]):
    """What the exercise is called and what it begins with. Only the fields of that way count."""

    way = forms.ChoiceField(label=_("Start from"), choices=WAYS, widget=forms.RadioSelect)
    meter = forms.ChoiceField(label=_("Time signature"), choices=[(m, m) for m in METERS])
    bars = forms.IntegerField(
        label=_("Bars of an empty page or a beat"), min_value=1, max_value=MAX_EMPTY_BARS, initial=4
    )
    key = forms.ChoiceField(
        label=pgettext_lazy("label", "Key"), initial="0", required=False, choices=[
            *((str(f), key_name(f)) for f in range(-MAX_FIFTHS, MAX_FIFTHS + 1)),
            *((f"{f} minor", key_name(f, is_minor=True)) for f in range(-MAX_FIFTHS, MAX_FIFTHS + 1)),
        ],
    )  # fmt: skip
    tonic = forms.CharField(label=_("Starting note"), initial="C", max_length=2, required=False)
    mode = forms.ChoiceField(label=_("Mode"), choices=[(m.value, m.value) for m in Mode])
    chord = forms.CharField(
        label=_("Chord"), initial="C", max_length=16, required=False, help_text=_("Am, F♯dim, G7 …")
    )
    size = forms.TypedChoiceField(
        label=_("Size"), coerce=int, initial=3,
        choices=(
            (2, _("seconds")), (3, _("thirds")), (4, _("fourths")), (5, _("fifths")), (6, _("sixths")),
            (7, _("sevenths")), (8, _("octaves")),
        ),
    )  # fmt: skip
    together = forms.BooleanField(label=_("both notes at once"), required=False)
    going = forms.ChoiceField(
        label=_("Direction"), initial=LineDirection.BOTH.value,
        choices=((LineDirection.UP.value, pgettext_lazy("choice", "up")), (LineDirection.DOWN.value, pgettext_lazy("choice", "down")), (LineDirection.BOTH.value, _("up and down"))),
    )  # fmt: skip
    voicing = forms.ChoiceField(
        label=_("Positions"), initial=Voicing.SMOOTH.value,
        choices=((Voicing.SMOOTH.value, _("with the nearest notes")), (Voicing.ROOT.value, _("in root position"))),
    )  # fmt: skip
    octaves = forms.IntegerField(label=_("Octaves"), min_value=1, max_value=4, initial=1)
    value = value_field(_("Note value"))
    hand = forms.ChoiceField(label=pgettext_lazy("label", "Hand"), choices=HAND_CHOICES)
    chords = forms.CharField(
        label=_("Chords"), required=False, max_length=2000, initial="C | Am | F | G7",
        help_text=_(
            "One chord for each bar: C Am F G7. Use | between bars if a bar has several: C | Am F | G7. Numerals in the key above work as well: I vi IV V7. "
            "Write N.C. for no chord."
        ),
    )  # fmt: skip
    rhythm = forms.CharField(
        label=_("Rhythm of each chord"), initial="x", max_length=32, required=False,
        help_text=_("x strikes, - holds on, . rests: xxxx is four strokes"),
    )  # fmt: skip
    beat = forms.ChoiceField(label=_("Beat"), choices=[(beat.name, _(beat.name)) for beat in BEATS])
    tempo_bpm = forms.DecimalField(
        label=pgettext_lazy("label", "Tempo"), required=False, min_value=int(MIN_BPM), max_value=int(MAX_BPM), decimal_places=2,
        help_text=_("Crotchets per minute. Leave empty for 90 (keyboard) or 100 (drums)."),
    )  # fmt: skip
    count_in_bars = forms.IntegerField(
        label=_("Count-in bars"), required=False, min_value=0, max_value=4,
        help_text=_("Leave empty for one bar (two for beginners)."),
    )  # fmt: skip

    class Meta:
        model = Exercise
        fields = ["title", "level", "instructions"]
        widgets = {"instructions": forms.Textarea(attrs={"rows": 2})}

    field_order = ["title", "way"]

    def __init__(self, data: FormData = None, *, conventions: Conventions = PLAIN, **more: Any) -> None:
        super().__init__(data, **more)
        name_values(self, conventions)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if not self.errors:
            try:
                cleaned["part"] = self._part(cleaned)
            except EarError as problem:
                add_problem(self, problem, otherwise=CAUSE.get(cleaned["way"], "way"))
        return cleaned

    def _part(self, c: dict[str, Any]) -> Part:
        over, under = (int(n) for n in c["meter"].split("/"))
        meter = Meter(numerator=over, denominator=under)
        shape = LineShape(
            octave=4 if c["hand"] == Hand.RIGHT else 3,
            octaves=c["octaves"], way=LineDirection(c["going"]), value_ticks=c["value"], hand=Hand(c["hand"]), meter=meter,
        )  # fmt: skip
        match c["way"]:
            case "fingers":
                return five_finger(Tonic.named(c["tonic"]), Mode(c["mode"]), shape)
            case "scale":
                return scale(Tonic.named(c["tonic"]), Mode(c["mode"]), shape)
            case "arpeggio":
                chord = Chord.named(c["chord"])
                return arpeggio(chord.root, chord.intervals, fifths=chord.key_fifths, shape=shape)
            case "intervals":
                return intervals(
                    Tonic.named(c["tonic"]), Mode(c["mode"]), shape, size=c["size"], together=c["together"]
                )
            case "chords":
                key = _key(c["key"])
                is_roman = any(
                    ROMAN.match(word) for word in c["chords"].replace("|", " ").replace(",", " ").split()
                )
                return chord_sequence(
                    read_sequence(c["chords"], key=key),
                    voicing=Voicing(c["voicing"]),
                    rhythm=c["rhythm"] or "x",
                    meter=meter,
                    fifths=key.fifths if is_roman else None,
                )
            case "beat":
                return next(b for b in BEATS if b.name == c["beat"]).part(bars=c["bars"])
            case way:
                kind = EMPTY[way]
                return Part.of(
                    (), kind=kind, meters=MeterMap.of(over, under),
                    tempos=TempoMap.of(kind.instrument.bpm), least_bars=c["bars"],
                    fifths=_key(c["key"]).fifths if kind.instrument.has_key else 0,
                )  # fmt: skip

    def new_exercise(self) -> NewExercise:
        c = self.cleaned_data
        part = c["part"]
        return NewExercise(
            title=c["title"],
            kind=part.kind.value,
            instructions=c["instructions"],
            tempo_bpm=c["tempo_bpm"] or Decimal(str(part.tempos.first_bpm)),
            count_in_bars=usual_count_in(c["level"]) if c["count_in_bars"] is None else c["count_in_bars"],
            level=c["level"],
            part=part,
        )


def _key(text: str) -> Key:
    """A key as the form names it: its signature, and “minor”."""
    fifths, _space, minor = (text or "0").partition(" ")
    name = key_name(int(fifths), is_minor=bool(minor)).removesuffix(" minor")
    return Key(tonic=Tonic.named(name), is_minor=bool(minor))


class GridForm(forms.Form):
    """Which bars a grid shows, in which steps, and how long and strong new notes are."""

    first_bar = forms.IntegerField(label=_("First bar"), min_value=1, max_value=MAX_BARS)
    last_bar = forms.IntegerField(label=_("Last bar"), min_value=1, max_value=MAX_BARS)
    step = value_field(_("Step"))
    value = value_field(_("Note length"))
    velocity = forms.IntegerField(label=_("Velocity"), min_value=1, max_value=127)
    hand = forms.ChoiceField(
        label=pgettext_lazy("label", "Hand"),
        choices=(("", pgettext_lazy("choice", "none")), *HAND_CHOICES),
        required=False,
    )
    low = forms.IntegerField(min_value=0, max_value=127, required=False, widget=forms.HiddenInput)
    high = forms.IntegerField(min_value=0, max_value=127, required=False, widget=forms.HiddenInput)

    def __init__(
        self, data: FormData = None, *, part: Part, conventions: Conventions = PLAIN, **more: Any
    ) -> None:
        super().__init__(data, auto_id="grid-%s", **more)
        self.part = part
        name_values(self, conventions)
        if part.instrument.has_lanes:
            for name in ("value", "hand", "low", "high"):
                del self.fields[name]

    @classmethod
    def for_part(cls, part: Part, conventions: Conventions) -> "GridForm":
        """As a grid is opened: the first two bars, in the part's own grid; its pitches stay while it is
        worked on, so that no row jumps away from under the hand."""
        step = suggested_step(part, ALL) if part.notes else part.instrument.grid_ticks
        pitches = [n.pitch for n in part.notes] or [60, 72]
        has_hands = any(n.hand for n in part.notes)
        return cls(
            part=part,
            conventions=conventions,
            initial={
                "first_bar": 1, "last_bar": min(GRID_BARS, len(part.bars)), "step": step, "value": step,
                "velocity": VELOCITY, "hand": Hand.RIGHT.value if has_hands or not part.notes else "",
                "low": max(0, min(pitches) - 2), "high": min(127, max(pitches) + 2),
            },
        )  # fmt: skip

    def grid(self) -> StepGrid | None:
        """The grid that is asked for; None, with what is wrong, where there is none."""
        if not self.is_valid():
            return None
        c = self.cleaned_data
        try:
            return step_grid(
                self.part, first_bar=c["first_bar"], last_bar=min(c["last_bar"], len(self.part.bars)),
                step_ticks=c["step"], low=c.get("low"), high=c.get("high"),
            )  # fmt: skip
        except EarError as problem:
            add_problem(self, problem)
            return None


CAUSE = {
    "fingers": "tonic", "scale": "tonic", "intervals": "tonic", "arpeggio": "chord", "chords": "chords",
}  # fmt: skip
"""The field beside which an error of a way is shown."""
