"""A free exercise: how long, on which grid, of which notes, how dense, over what."""

from dataclasses import replace
from decimal import Decimal
from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext_lazy

from ear.errors import EarError
from ear.formats.part_json import part_from_json
from ear.free.exercise import MAX_BARS, MAX_NOTES_IN_BAR, MAX_SWING, FreeSpec, Pitches
from ear.notes import STANDARD_KIT, Kind, MeterChange, MeterMap, Part, TempoMap
from ear.patterns.chords import chord_sequence, read_sequence, write_sequence
from ear.patterns.grooves import FAMILIES, GrooveFeel, groove
from ear.patterns.modes import Mode, Tonic, key_fifths
from ear.practice.rules import RecordingRules
from oido.common.forms import FormData, ModelForm
from oido.common.problems import add_problem
from oido.exercises.forms.fields import METERS, meter_text, read_meter, tempo_field
from oido.exercises.models import Exercise, KindChoice
from oido.exercises.services import ExerciseFacts, NewExercise

GRIDS = (
    (480, gettext_lazy("crotchets")), (240, gettext_lazy("quavers")), (160, gettext_lazy("quaver triplets")),
    (120, gettext_lazy("semiquavers")),
)  # fmt: skip
NOTHING, KEPT, CHORDS = "", "kept", "chords"
BACKING_VARIATION = 2
"""Of a groove that sounds behind a free exercise."""


class FreeForm(ModelForm[Exercise]):
    """Everything of a free exercise on one page. Nothing of it is stored before it is right."""

    kind = forms.ChoiceField(label=gettext_lazy("Instrument"), choices=KindChoice.choices)
    meter = forms.ChoiceField(label=gettext_lazy("Time signature"), choices=[(m, m) for m in METERS])
    tempo_bpm = tempo_field(initial=90)
    bars = forms.IntegerField(
        label=pgettext_lazy("label", "Bars"), min_value=1, max_value=MAX_BARS, initial=8
    )
    count_in_bars = forms.IntegerField(
        label=gettext_lazy("Count-in bars"), min_value=0, max_value=4, initial=1
    )
    has_click = forms.BooleanField(label=gettext_lazy("with a click"), required=False, initial=True)
    grid_ticks = forms.TypedChoiceField(
        label=gettext_lazy("Notes stand on"), choices=GRIDS, coerce=int, initial=240,
        help_text=gettext_lazy("Timing is the distance to the nearest of these."),
    )  # fmt: skip
    swing = forms.FloatField(
        label=gettext_lazy("Swing"), min_value=1 / MAX_SWING, max_value=MAX_SWING, initial=1,
        help_text=gettext_lazy("first part of a pair over its second: 1 straight, 2 as triplets"),
    )  # fmt: skip
    pitches = forms.ChoiceField(
        label=gettext_lazy("Notes allowed"), required=False, choices=(
            (Pitches.CHORDS.value, gettext_lazy("notes of each bar’s chord")),
            (Pitches.SCALE.value, gettext_lazy("of a scale")), (Pitches.ANY.value, pgettext_lazy("choice", "any")),
        ),
    )  # fmt: skip
    chords = forms.CharField(
        label=gettext_lazy("Chords"), max_length=600, required=False, widget=forms.Textarea(attrs={"rows": 2}),
        help_text=gettext_lazy("bars between “|”, as Am | F | C G | E7; then they repeat"),
    )  # fmt: skip
    tonic = forms.CharField(label=gettext_lazy("Scale on"), max_length=3, required=False, initial="A")
    mode = forms.ChoiceField(
        label=gettext_lazy("Scale"), required=False, choices=[(m.value, m.value) for m in Mode]
    )
    lanes = forms.TypedMultipleChoiceField(
        label=gettext_lazy("Drums allowed"), required=False, coerce=int, widget=forms.CheckboxSelectMultiple,
        choices=[(lane.pitches[0], gettext_lazy(lane.name)) for lane in STANDARD_KIT.lanes],
        help_text=gettext_lazy("None chosen: all."),
    )  # fmt: skip
    least_a_bar = forms.IntegerField(
        label=gettext_lazy("Notes in a bar, at least"), min_value=0, max_value=MAX_NOTES_IN_BAR, initial=1
    )
    most_a_bar = forms.IntegerField(
        label=gettext_lazy("Notes in a bar, at most"), min_value=1, max_value=MAX_NOTES_IN_BAR, required=False,
        help_text=gettext_lazy("Leave empty for no limit"),
    )  # fmt: skip
    pairs_repeat = forms.BooleanField(
        label=gettext_lazy("every second bar repeats the one before"), required=False
    )
    backing = forms.ChoiceField(label=gettext_lazy("Backing"), required=False)
    handed_in_takes = forms.IntegerField(
        label=gettext_lazy("Takes handed in together"), min_value=1, max_value=20, initial=1,
        help_text=gettext_lazy("e.g. 3 for three different lines over the same beat"),
    )  # fmt: skip

    class Meta:
        model = Exercise
        fields = ["title", "level", "instructions"]
        widgets = {"instructions": forms.Textarea(attrs={"rows": 3})}

    GROUPS = (
        (gettext_lazy("The exercise"), ("title", "kind", "level", "instructions")),
        (pgettext_lazy("choice", "Length"), ("bars", "meter", "tempo_bpm", "count_in_bars", "has_click")),
        (gettext_lazy("Rhythm"), ("grid_ticks", "swing", "least_a_bar", "most_a_bar", "pairs_repeat")),
        (gettext_lazy("Notes allowed"), ("pitches", "chords", "tonic", "mode", "lanes")),
        (gettext_lazy("Backing"), ("backing", "handed_in_takes")),
    )

    def __init__(self, data: FormData = None, *, exercise: Exercise | None = None, **more: Any) -> None:
        super().__init__(data, instance=exercise, initial=_start(exercise), **more)
        self.had = exercise
        field = self.fields["backing"]
        assert isinstance(field, forms.ChoiceField)
        kept = [(KEPT, _("keep the current one"))] if exercise is not None and exercise.backing else []
        field.choices = [
            (NOTHING, _("nothing but the click")), *kept, (CHORDS, _("its chords, played by the robot")),
            *((feel.value, _("a groove: %(name)s") % {"name": _(feel.value)}) for feel in GrooveFeel),
        ]  # fmt: skip
        if exercise is not None:
            # What was recorded was recorded on this instrument.
            del self.fields["kind"]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if self.errors:
            return cleaned
        kind = Kind(self.had.kind if self.had is not None else cleaned["kind"])
        meter = read_meter(cleaned["meter"])
        try:
            if cleaned["chords"].strip():
                cleaned["chords"] = write_sequence(read_sequence(cleaned["chords"]))
        except EarError as problem:
            add_problem(self, problem, otherwise="chords")
            return cleaned
        spec = self._spec(cleaned, kind)
        try:
            self.spec, self.page = spec, spec.page(
                kind=kind, meters=MeterMap([MeterChange(bar=1, meter=meter)]), tempos=TempoMap.of(float(cleaned["tempo_bpm"])),
                fifths=self._fifths(cleaned, spec, kind),
            )  # fmt: skip
            self.made_backing = self._backing(cleaned, spec)
        except EarError as problem:
            named = "chords" if spec.pitches is Pitches.CHORDS or cleaned["backing"] == CHORDS else "tonic"
            add_problem(self, problem, otherwise=named)
        if spec.pitches is Pitches.CHORDS and kind is Kind.KEYBOARD and not spec.chords.strip():
            self.add_error("chords", _("Write the chords, or allow other notes."))
        return cleaned

    def _spec(self, c: dict[str, Any], kind: Kind) -> FreeSpec:
        pitches = Pitches(c["pitches"] or Pitches.ANY) if not kind.instrument.has_lanes else Pitches.ANY
        return FreeSpec(
            bars=c["bars"], grid_ticks=c["grid_ticks"], swing=c["swing"], pitches=pitches,
            scale=f"{c['tonic']} {c['mode']}" if pitches is Pitches.SCALE else "", chords=c["chords"],
            lanes=tuple(c["lanes"]) if kind.instrument.has_lanes else (), least_a_bar=c["least_a_bar"],
            most_a_bar=c["most_a_bar"], pairs_repeat=c["pairs_repeat"],
        )  # fmt: skip

    def _fifths(self, c: dict[str, Any], spec: FreeSpec, kind: Kind) -> int:
        if kind.instrument.has_lanes:
            return 0
        if spec.pitches is Pitches.SCALE:
            return key_fifths(Tonic.named(c["tonic"]), Mode(c["mode"]))
        first = read_sequence(spec.chords)[0][0] if spec.chords.strip() else None
        return 0 if first is None else first.key_fifths

    def _backing(self, c: dict[str, Any], spec: FreeSpec) -> Part | None:
        """As long as the exercise, so that it ends with it."""
        chosen = c["backing"]
        if chosen == KEPT and self.had is not None and self.had.backing:
            return part_from_json(self.had.backing)
        if chosen == CHORDS:
            if not spec.chords.strip():
                self.add_error("chords", _("Write the chords that are to be played."))
                return None
            named = read_sequence(spec.chords)
            bars = [named[k % len(named)] for k in range(spec.bars)]
            return chord_sequence(bars, meter=self.page.meters.first, bpm=self.page.tempos.first_bpm)
        if chosen not in list(GrooveFeel):
            return None
        feel = GrooveFeel(chosen)
        if FAMILIES[feel].meter.bar_ticks != self.page.meters.first.bar_ticks:
            self.add_error("backing", _("This groove has a different time signature."))
            return None
        return groove(feel, variation=BACKING_VARIATION, bars=spec.bars, bpm=self.page.tempos.first_bpm)

    @property
    def rules(self) -> RecordingRules:
        own = self.had.recording_rules if self.had is not None else RecordingRules()
        together = self.cleaned_data["handed_in_takes"]
        return replace(
            own, has_click=self.cleaned_data["has_click"], handed_in_takes=together,
            least_takes=max(together, own.least_takes if self.had is not None else 1),
        )  # fmt: skip

    def new_exercise(self) -> NewExercise:
        c = self.cleaned_data
        return NewExercise(
            title=c["title"], kind=self.page.kind.value, instructions=c["instructions"], tempo_bpm=c["tempo_bpm"],
            count_in_bars=c["count_in_bars"], level=c["level"], part=self.page, rules=self.rules,
            backing=self.made_backing, free=self.spec,
        )  # fmt: skip

    def facts(self) -> ExerciseFacts:
        c = self.cleaned_data
        return ExerciseFacts(
            title=c["title"], instructions=c["instructions"], tempo_bpm=Decimal(c["tempo_bpm"]),
            count_in_bars=c["count_in_bars"], level=c["level"],
        )  # fmt: skip

    @property
    def groups(self) -> list[tuple[Any, list[Any]]]:
        return [(title, [self[n] for n in names if n in self.fields]) for title, names in self.GROUPS]


def _start(exercise: Exercise | None) -> dict[str, Any]:
    if exercise is None or exercise.part is None or exercise.part.spec is None:
        return {}
    spec, page, rules = exercise.part.spec, exercise.part.read(), exercise.recording_rules
    tonic, _space, mode = spec.scale.partition(" ")
    meter = page.meters.first
    return {
        "meter": meter_text(meter), "tempo_bpm": exercise.tempo_bpm, "bars": spec.bars,
        "count_in_bars": exercise.count_in_bars, "has_click": rules.has_click, "grid_ticks": spec.grid_ticks,
        "swing": f"{spec.swing:g}", "pitches": spec.pitches.value, "chords": spec.chords, "tonic": tonic or "A",
        "mode": mode or Mode.MAJOR.value, "lanes": list(spec.lanes), "least_a_bar": spec.least_a_bar,
        "most_a_bar": spec.most_a_bar, "pairs_repeat": spec.pairs_repeat, "backing": KEPT if exercise.backing else "",
        "handed_in_takes": rules.handed_in_takes,
    }  # fmt: skip
