"""Forms of exercises: a file sent, what to take of it, recording rules, the ladder."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.errors import EarError
from ear.formats.importing import HandsFrom, OpenedFile, open_file
from ear.formats.part_json import part_from_json
from ear.formats.smf import BYTES_MAX
from ear.notes import STANDARD_KIT, Hand, Kind, Part
from ear.practice.ladder import RUNGS_MOST, Ladder, Rung
from ear.practice.rules import (
    ATTEMPTS_MOST,
    LEVEL_MOST,
    PASSES_MOST,
    RANGE_MOST,
    TAKES_MOST,
    ClickSound,
    RecordingRules,
    SoundChoice,
)  # fmt: skip
from ear.units import BPM_MAX, BPM_MIN
from oido.exercises.bundle import Bundled, is_bundle, read_bundle
from oido.exercises.models import Exercise, KindChoice
from oido.exercises.services import ExerciseFacts, NewExercise

BARS_MAX = 400
NOTES_MAX = 12_000
HANDS = (
    (HandsFrom.FILE.value, _("as the file tells them")), (HandsFrom.SPLIT.value, _("split at middle C")),
    (HandsFrom.RIGHT.value, _("all right")), (HandsFrom.LEFT.value, _("all left")), (HandsFrom.NONE.value, _("none")),
)  # fmt: skip
CLICK_SOUNDS = {ClickSound.TICK: _("tick"), ClickSound.WOOD: _("wood"), ClickSound.BELL: _("bell")}
SOUNDS = {
    SoundChoice.PIANO: _("piano"), SoundChoice.ELECTRIC_PIANO: _("electric piano"), SoundChoice.ORGAN: _("organ"),
    SoundChoice.STRINGS: _("strings"), SoundChoice.BASS: _("bass"),
}  # fmt: skip


def tempo_field(**more: Any) -> forms.DecimalField:
    return forms.DecimalField(
        label=_("Tempo"), min_value=int(BPM_MIN), max_value=int(BPM_MAX), decimal_places=2, **more
    )


class UploadForm(forms.Form):
    """A file from elsewhere: MIDI, MusicXML, or an exercise from another Oido."""

    file = forms.FileField(
        label=_("File"),
        help_text=_(
            "Standard MIDI File (.mid), MusicXML (.musicxml, .xml, .mxl), or a bundle of an exercise (.zip)."
        ),
    )

    bundled: Bundled | None = None
    content: bytes = b""

    def clean_file(self) -> Any:
        file = self.cleaned_data["file"]
        if file.size > BYTES_MAX:
            raise forms.ValidationError(_("This file is too large for an exercise (over 4 MB)."))
        self.content = file.read()
        try:
            if is_bundle(self.content):
                self.bundled = read_bundle(self.content)
            else:
                found = open_file(self.content)
                if not any(choice.notes for choice in found.choices):
                    raise forms.ValidationError(_("This file holds no notes."))
        except EarError as problem:
            raise forms.ValidationError(
                _("This file cannot be read: %(problem)s."), params={"problem": problem}
            ) from problem
        return file


class ImportForm(forms.ModelForm):
    """What to take of an opened file, and what the exercise is called."""

    kind = forms.ChoiceField(label=_("Kind"), choices=KindChoice.choices, widget=forms.RadioSelect)
    take = forms.MultipleChoiceField(label=_("Take"), widget=forms.CheckboxSelectMultiple)
    hands = forms.ChoiceField(label=_("Hands"), choices=HANDS, required=False)
    tempo_bpm = tempo_field(
        required=False, help_text=_("Quarter notes a minute. Left empty, the file's own tempo is taken.")
    )
    count_in_bars = forms.IntegerField(label=_("Count-in bars"), min_value=0, max_value=4, initial=1)

    class Meta:
        model = Exercise
        fields = ["title", "level", "instructions"]
        widgets = {"instructions": forms.Textarea(attrs={"rows": 2})}

    field_order = ["title", "kind", "take", "hands", "tempo_bpm", "count_in_bars"]

    def __init__(self, *args: Any, opened: OpenedFile, **more: Any) -> None:
        kind = opened.kind
        initial = {
            "title": opened.title, "kind": kind.value, "take": opened.first_choice(kind), "hands": HandsFrom.FILE.value,
        }  # fmt: skip
        super().__init__(*args, initial=initial, **more)
        self.opened = opened
        self.part: Part | None = None
        self.fields["take"].choices = [(c.key, c.name) for c in opened.choices]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        kind, take = cleaned.get("kind"), cleaned.get("take")
        if not kind or not take:
            return cleaned
        try:
            part = self.opened.part(
                take, kind=Kind(kind), hands=HandsFrom(cleaned.get("hands") or HandsFrom.FILE.value)
            )
        except EarError as problem:
            self.add_error("take", str(problem))
            return cleaned
        if not part.notes:
            self.add_error("take", _("What is taken holds no notes."))
        elif len(part.notes) > NOTES_MAX or len(part.bars) > BARS_MAX:
            self.add_error(
                "take",
                _("An exercise has up to %(bars)s bars and %(notes)s notes; this has %(b)s and %(n)s.")
                % {"bars": BARS_MAX, "notes": NOTES_MAX, "b": len(part.bars), "n": len(part.notes)},
            )
        else:
            self.part = part
        return cleaned

    def new_exercise(self, *, source_name: str, source_file: bytes) -> NewExercise:
        c, part = self.cleaned_data, self.part
        assert part is not None
        return NewExercise(
            title=c["title"],
            kind=c["kind"],
            instructions=c["instructions"],
            tempo_bpm=c["tempo_bpm"] or round(part.tempos.first_bpm, 2),
            count_in_bars=c["count_in_bars"],
            level=c["level"],
            part=part,
            source_name=source_name,
            source_file=source_file,
        )


class RulesForm(forms.ModelForm):
    """What an exercise says of itself, and its recording rules."""

    tempo_bpm = tempo_field()
    count_in_bars = forms.IntegerField(label=_("Count-in bars"), min_value=0, max_value=4)
    slower_percent = forms.IntegerField(label=_("May be slower by, %"), min_value=0, max_value=RANGE_MOST)
    faster_percent = forms.IntegerField(label=_("May be faster by, %"), min_value=0, max_value=RANGE_MOST)
    has_click = forms.BooleanField(label=_("with a click"), required=False)
    click_sound = forms.ChoiceField(
        label=_("Sound of the click"), choices=[(k.value, v) for k, v in CLICK_SOUNDS.items()]
    )
    click_level = forms.IntegerField(label=_("Its level, %"), min_value=0, max_value=LEVEL_MOST)
    click_divides = forms.TypedChoiceField(
        label=_("It gives"), coerce=int,
        choices=((1, _("beats")), (2, _("halves of beats")), (3, _("thirds of beats")), (4, _("quarters of beats"))),
    )  # fmt: skip
    backing_from = forms.ChoiceField(label=_("Backing part"), required=False)
    backing_file = forms.FileField(
        label=_("or from a file"), required=False, help_text=_("A MIDI or MusicXML file: all of it that is keyboard, or all drums.")
    )  # fmt: skip
    backing_level = forms.IntegerField(label=_("Its level, %"), min_value=0, max_value=LEVEL_MOST)
    backing_while_recording = forms.BooleanField(label=_("heard while recording"), required=False)
    sounds = forms.MultipleChoiceField(
        label=_("Sounds allowed"), required=False, choices=[(k.value, v) for k, v in SOUNDS.items()],
        widget=forms.CheckboxSelectMultiple, help_text=_("None chosen: all."),
    )  # fmt: skip
    passes = forms.IntegerField(
        label=_("Passes over each other in one take"), min_value=1, max_value=PASSES_MOST
    )
    allows_corrected_copies = forms.BooleanField(
        label=_("corrected copies may be handed in beside"), required=False
    )
    attempts = forms.IntegerField(
        label=_("Takes that may be recorded"), required=False, min_value=1, max_value=ATTEMPTS_MOST,
        help_text=_("Left empty: as many as wanted."),
    )  # fmt: skip
    least_takes = forms.IntegerField(
        label=_("Takes before one is handed in"), min_value=1, max_value=TAKES_MOST
    )

    class Meta:
        model = Exercise
        fields = ["title", "level", "instructions"]
        widgets = {"instructions": forms.Textarea(attrs={"rows": 4})}

    GROUPS = (
        (_("The exercise"), ("title", "level", "instructions")),
        (_("Tempo and count-in"), ("tempo_bpm", "slower_percent", "faster_percent", "count_in_bars")),
        (_("Click"), ("has_click", "click_sound", "click_level", "click_divides")),
        (_("Backing"), ("backing_from", "backing_file", "backing_level", "backing_while_recording")),
        (_("Takes"), ("attempts", "least_takes", "passes", "allows_corrected_copies", "sounds")),
    )
    KEEP, NONE = "keep", ""

    def __init__(self, *args: Any, exercise: Exercise, others: Any, **more: Any) -> None:
        rules = exercise.recording_rules
        initial = {name: getattr(rules, name) for name in RecordingRules.__dataclass_fields__}
        initial |= {
            "tempo_bpm": exercise.tempo_bpm, "count_in_bars": exercise.count_in_bars,
            "click_sound": rules.click_sound.value, "sounds": [sound.value for sound in rules.sounds],
            "backing_from": self.KEEP if exercise.backing else self.NONE,
        }  # fmt: skip
        super().__init__(*args, instance=exercise, initial=initial, **more)
        self.others = {str(other.pk): other for other in others}
        kept = [(self.KEEP, _("the one it has"))] if exercise.backing else []
        self.fields["backing_from"].choices = [
            (self.NONE, _("none")), *kept, *((key, other.title) for key, other in self.others.items()),
        ]  # fmt: skip
        self.had_backing = exercise.backing
        self.backing: Part | None = None
        self.rules = rules

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if self.errors:
            return cleaned
        try:
            self.rules = RecordingRules(
                **{
                    name: cleaned[name]
                    for name in RecordingRules.__dataclass_fields__
                    if name not in ("click_sound", "sounds")
                },
                click_sound=ClickSound(cleaned["click_sound"]),
                sounds=tuple(SoundChoice(sound) for sound in cleaned["sounds"]),
            )
        except EarError as problem:
            self.add_error("attempts", str(problem))
        self.backing = self._backing(cleaned)
        return cleaned

    def _backing(self, cleaned: dict[str, Any]) -> Part | None:
        file, source = cleaned.get("backing_file"), cleaned.get("backing_from")
        if file is not None:
            if file.size > BYTES_MAX:
                self.add_error("backing_file", _("This file is too large for an exercise (over 4 MB)."))
                return None
            try:
                opened = open_file(file.read())
                return opened.part(opened.first_choice(opened.kind), kind=opened.kind)
            except EarError as problem:
                self.add_error(
                    "backing_file", _("This file cannot be read: %(problem)s.") % {"problem": problem}
                )
                return None
        if source == self.KEEP:
            return part_from_json(self.had_backing)
        return self.others[source].part.read() if source in self.others else None

    def facts(self) -> ExerciseFacts:
        c = self.cleaned_data
        return ExerciseFacts(
            title=c["title"], instructions=c["instructions"], tempo_bpm=c["tempo_bpm"],
            count_in_bars=c["count_in_bars"], level=c["level"],
        )  # fmt: skip

    @property
    def groups(self) -> list[tuple[Any, list[Any]]]:
        return [(title, [self[name] for name in names]) for title, names in self.GROUPS]


class RungForm(forms.Form):
    """One rung of a ladder."""

    name = forms.CharField(label=_("rung"), max_length=80)
    first_bar = forms.IntegerField(label=_("from bar"), min_value=1, max_value=BARS_MAX)
    last_bar = forms.IntegerField(label=_("to bar"), min_value=1, max_value=BARS_MAX)
    of = forms.CharField(label=_("of"), required=False, max_length=120)
    movements = forms.RegexField(r"^(\d{1,2})(-\d{1,2})?$", label=_("movements"), required=False)
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
                self.add_error(None, str(problem))
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
