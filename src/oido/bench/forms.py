"""Begin an exercise on the Bench: an empty page or a pattern."""

from collections.abc import Iterator
from decimal import Decimal
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.conventions import PLAIN, Conventions
from ear.criteria.levels import LEVELS
from ear.editing.bars import MAX_BARS
from ear.editing.edited import ALL
from ear.editing.quantise import suggested_step
from ear.editing.step_grid import StepGrid, step_grid
from ear.errors import EarError, ValueOutOfRange
from ear.notes import Hand, Kind, MeterChange, MeterMap, Part, TempoMap
from ear.notes.part import MAX_FIFTHS
from ear.patterns.accompaniments import CADENCES, ChordFigure, accompaniment
from ear.patterns.chords import ROMAN, Chord, Key, Voicing, chord_sequence, read_sequence
from ear.patterns.grooves import FAMILIES, GrooveFeel, groove, ostinato_of
from ear.patterns.lines import VELOCITY, LineDirection, LineShape, arpeggio, five_finger, intervals, scale
from ear.patterns.modes import Mode, Tonic, key_name
from ear.patterns.rudiments import RUDIMENTS, rudiment
from ear.patterns.two_hands import APART, TwoHands, in_two_hands, scale_in_two_hands
from ear.units import MAX_BPM, MIN_BPM
from ear.words.keys import describe_key
from oido.bench.tools.base import HAND_CHOICES, name_values, value_field
from oido.common.forms import FormData, ModelForm
from oido.common.problems import add_problem
from oido.common.readers import usual_reader
from oido.exercises.forms.fields import METERS, read_meter
from oido.exercises.models import Exercise
from oido.exercises.services import NewExercise

MAX_EMPTY_BARS = 64
GRID_BARS = 2
COUNT_IN, BEGINNERS_COUNT_IN = 1, 2
UP_AND_DOWN = "1 2 3 4 5 4 3 2 1"
BEGINNERS_LEVEL = next(iter(LEVELS))

WAYS = (
    ("empty", _("an empty page for keyboard")),
    ("empty-drums", _("an empty page for drums")),
    ("fingers", _("a five-finger position")),
    ("scale", _("a scale")),
    ("arpeggio", _("an arpeggio")),
    ("intervals", _("intervals")),
    ("chords", _("a chord sequence")),
    ("groove", _("a drum groove")),
    ("rudiment", _("a rudiment")),
)


def usual_count_in(level: str) -> int:
    """Bars of count-in that teachers give: beginners need two."""
    return BEGINNERS_COUNT_IN if level == BEGINNERS_LEVEL else COUNT_IN


MAX_VARIATIONS = max(len(family.bars) for family in FAMILIES.values())


def _numbers(text: str, *, most: int) -> list[int]:
    """Return the bar numbers that a text lists. Raises ValueOutOfRange for anything else."""
    words = text.replace(",", " ").split()
    if not all(word.isdecimal() and 1 <= int(word) <= most for word in words):
        raise ValueOutOfRange("bar_outside_part", field="fill_bars", count=most)
    return [int(word) for word in words]


def _degrees(text: str) -> list[int]:
    """Return the degrees that a text lists. Raises ValueOutOfRange for anything else."""
    words = (text or UP_AND_DOWN).replace(",", " ").split()
    if not all(word.isdecimal() for word in words):
        raise ValueOutOfRange("degrees_unreadable", field="degrees")
    return [int(word) for word in words]


LINES = ("fingers", "scale", "arpeggio", "intervals")
EMPTY = {"empty": Kind.KEYBOARD, "empty-drums": Kind.DRUMS}


def _keys() -> Iterator[tuple[str, str]]:
    """Yield the keys that a part can begin in, the minor ones last."""
    reader = usual_reader()
    for is_minor, mode in ((False, ""), (True, " minor")):
        for fifths in range(-MAX_FIFTHS, MAX_FIFTHS + 1):
            yield f"{fifths}{mode}", describe_key(fifths, reader, is_minor=is_minor)


class BeginForm(ModelForm[Exercise]):
    """What the exercise is called and what it begins with. Only the fields of that way count."""

    way = forms.ChoiceField(label=_("Start from"), choices=WAYS, widget=forms.RadioSelect)
    meter = forms.ChoiceField(label=_("Time signature"), choices=[(m, m) for m in METERS])
    bars = forms.IntegerField(
        label=pgettext_lazy("label", "Bars"), min_value=1, max_value=MAX_EMPTY_BARS, initial=4
    )
    key = forms.ChoiceField(
        label=pgettext_lazy("label", "Key"), initial="0", required=False, choices=lambda: list(_keys())
    )
    tonic = forms.CharField(label=_("Starting note"), initial="C", max_length=2, required=False)
    mode = forms.ChoiceField(label=_("Mode"), choices=[(m.value, _(m.value)) for m in Mode])
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
        choices=((LineDirection.UP.value, pgettext_lazy("choice", "up")), (LineDirection.DOWN.value, pgettext_lazy("choice", "down")), (LineDirection.BOTH.value, _("up and down")), (LineDirection.DOWN_FIRST.value, _("down and up"))),
    )  # fmt: skip
    voicing = forms.ChoiceField(
        label=_("Positions"), initial=Voicing.SMOOTH.value,
        choices=((Voicing.SMOOTH.value, _("with the nearest notes")), (Voicing.ROOT.value, _("in root position"))),
    )  # fmt: skip
    octaves = forms.IntegerField(label=_("Octaves"), min_value=1, max_value=4, initial=1)
    value = value_field(_("Note value"))
    hand = forms.ChoiceField(
        label=pgettext_lazy("label", "Hand"),
        choices=(
            *HAND_CHOICES,
            (TwoHands.OCTAVES.value, _("both hands, in octaves")), (TwoHands.CONTRARY.value, _("both hands, in contrary motion")),
            (TwoHands.THIRDS.value, _("both hands, a third apart")), (TwoHands.SIXTHS.value, _("both hands, a sixth apart")),
            (TwoHands.TENTHS.value, _("both hands, a tenth apart")),
        ),
    )  # fmt: skip
    figure = forms.ChoiceField(
        label=_("Played as"), required=False,
        choices=(
            ("", _("chords in the right hand, bass in the left")),
            (ChordFigure.ALBERTI.value, _("Alberti bass, left hand")), (ChordFigure.BROKEN.value, _("broken chords, left hand")),
            (ChordFigure.WALTZ.value, _("bass and chords in turn, left hand")), (ChordFigure.WALKING.value, _("walking bass, left hand")),
            (ChordFigure.COMPING.value, _("comping, right hand over a bass")),
        ),
    )  # fmt: skip
    cadence = forms.ChoiceField(
        label=_("Or a cadence in the key above"), required=False,
        choices=(
            ("", pgettext_lazy("choice", "none")), ("perfect", _("perfect: I IV V7 I")), ("plagal", _("plagal: I vi IV I")),
            ("imperfect", _("imperfect: I ii IV V")), ("interrupted", _("interrupted: I IV V7 vi")),
            ("two-five-one", _("two-five-one: ii7 V7 I")),
        ),
    )  # fmt: skip
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
    feel = forms.ChoiceField(
        label=_("Groove"), required=False, choices=[(feel.value, _(feel.value)) for feel in GrooveFeel]
    )
    variation = forms.IntegerField(
        label=_("Variation, 1 the plainest"), required=False, min_value=1, max_value=MAX_VARIATIONS, initial=1
    )
    fill_beats = forms.TypedChoiceField(
        label=_("Fills"), required=False, coerce=int, initial="0",
        choices=(("0", pgettext_lazy("choice", "none")), (1, _("one beat long")), (2, _("two beats long")), (4, _("four beats long"))),
    )  # fmt: skip
    fill_bars = forms.CharField(
        label=_("Bars with a fill"),
        required=False,
        max_length=60,
        initial="4",
        help_text=_("for example 4, 8"),
    )
    changing_lane = forms.ChoiceField(
        label=_("A lane that changes from bar to bar"), required=False,
        choices=(
            ("", pgettext_lazy("choice", "none")), ("kick", _("kick")), ("snare", _("snare")), ("hat", _("hi-hat")),
            ("ride", _("ride")), ("foot hat", _("foot hi-hat")),
        ),
    )  # fmt: skip
    changing_bars = forms.CharField(
        label=_("Its bars"), required=False, max_length=1000,
        help_text=_(
            "One sign for each step, | between bars: X....... | ..X.x... Leave empty for one stroke that comes a step later "
            "in each bar."
        ),
    )  # fmt: skip
    degrees = forms.CharField(
        label=_("Degrees"), required=False, max_length=400, initial=UP_AND_DOWN,
        help_text=_("In the order you want them played: 1 to 5."),
    )  # fmt: skip
    rudiment = forms.ChoiceField(
        label=_("Rudiment"), required=False, choices=[(each.name, _(each.name)) for each in RUDIMENTS]
    )
    tempo_bpm = forms.DecimalField(
        label=pgettext_lazy("label", "Tempo"), required=False, min_value=int(MIN_BPM), max_value=int(MAX_BPM), decimal_places=2,
        help_text=_("Crotchets per minute. Leave empty for the usual tempo."),
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

    def _line(self, c: dict[str, Any], shape: LineShape, hands: TwoHands | None) -> Part:
        """Return a line for one hand, or for both."""
        tonic, mode = (Tonic.named(c["tonic"]), Mode(c["mode"])) if c["way"] != "arpeggio" else (None, None)
        if tonic is not None and mode is not None and c["way"] == "scale" and hands is not None:
            return scale_in_two_hands(tonic, mode, shape, hands=hands)
        if hands in APART:
            raise ValueOutOfRange("two_hands_scales_only", field="hand")

        def line(own: LineShape) -> Part:
            if tonic is None or mode is None:
                chord = Chord.named(c["chord"])
                return arpeggio(chord.root, chord.intervals, fifths=chord.key_fifths, shape=own)
            if c["way"] == "fingers":
                return five_finger(tonic, mode, own, degrees=_degrees(c["degrees"]))
            if c["way"] == "intervals":
                return intervals(tonic, mode, own, size=c["size"], together=c["together"])
            return scale(tonic, mode, own)

        return line(shape) if hands is None else in_two_hands(line, shape, hands=hands)

    def _part(self, c: dict[str, Any]) -> Part:
        meter = read_meter(c["meter"])
        hands = TwoHands(c["hand"]) if c["hand"] in list(TwoHands) else None
        shape = LineShape(
            octave=3 if c["hand"] == Hand.LEFT else 4, octaves=c["octaves"], way=LineDirection(c["going"]),
            value_ticks=c["value"], hand=Hand.RIGHT if hands else Hand(c["hand"]), meter=meter,
        )  # fmt: skip
        if c["way"] in LINES:
            return self._line(c, shape, hands)
        match c["way"]:
            case "chords":
                key = _key(c["key"])
                typed = CADENCES.get(c["cadence"], c["chords"])
                is_roman = any(
                    ROMAN.match(word) for word in typed.replace("|", " ").replace(",", " ").split()
                )
                if c["figure"]:
                    bars = [[chord for chord in bar if chord] for bar in read_sequence(typed, key=key)]
                    return accompaniment(
                        [bar for bar in bars if bar], ChordFigure(c["figure"]), meter=meter,
                        fifths=key.fifths if is_roman else None,
                    )  # fmt: skip
                return chord_sequence(
                    read_sequence(typed, key=key),
                    voicing=Voicing(c["voicing"]),
                    rhythm=c["rhythm"] or "x",
                    meter=meter,
                    fifths=key.fifths if is_roman else None,
                )
            case "groove" if c["changing_lane"]:
                rows = "".join(c["changing_bars"].split()).split("|") if c["changing_bars"] else ()
                return ostinato_of(
                    GrooveFeel(c["feel"] or GrooveFeel.EIGHTHS), c["changing_lane"], variation=c["variation"] or 1,
                    bars=c["bars"], changing=rows,
                )  # fmt: skip
            case "groove":
                return groove(
                    GrooveFeel(c["feel"] or GrooveFeel.EIGHTHS), variation=c["variation"] or 1, bars=c["bars"],
                    fill_bars=_numbers(c["fill_bars"], most=c["bars"]) if c["fill_beats"] else (),
                    fill_beats=c["fill_beats"] or 1,
                )  # fmt: skip
            case "rudiment":
                return rudiment(c["rudiment"] or RUDIMENTS[0].name).part(bars=c["bars"])
            case way:
                kind = EMPTY[way]
                return Part.of(
                    (), kind=kind, meters=MeterMap([MeterChange(bar=1, meter=meter)]),
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

    first_bar = forms.IntegerField(label=_("First bar"), min_value=0, max_value=MAX_BARS)
    last_bar = forms.IntegerField(label=_("Last bar"), min_value=0, max_value=MAX_BARS)
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
                "first_bar": part.first_bar, "last_bar": min(GRID_BARS, part.last_bar), "step": step, "value": step,
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
                self.part, first_bar=c["first_bar"], last_bar=min(c["last_bar"], self.part.last_bar),
                step_ticks=c["step"], low=c.get("low"), high=c.get("high"),
            )  # fmt: skip
        except EarError as problem:
            add_problem(self, problem)
            return None


CAUSE = {
    "fingers": "tonic", "scale": "tonic", "intervals": "tonic", "arpeggio": "chord", "chords": "chords",
    "groove": "variation", "rudiment": "rudiment",
}  # fmt: skip
"""The field beside which an error of a way is shown."""
