"""How an exercise is recorded."""

from collections.abc import Iterator
from typing import Any

from django import forms
from django.utils.text import capfirst
from django.utils.translation import gettext_lazy as _

from ear.errors import EarError
from ear.formats.apart import checked, told_apart
from ear.formats.importing import opened_from_json
from ear.formats.limits import FILE_BYTES
from ear.formats.part_json import part_from_json
from ear.formats.together import check_fits
from ear.notes import Part
from ear.patterns.modes import key_name
from ear.practice.rules import (
    ATTEMPTS_MOST,
    HEARS_MOST,
    LEVEL_MOST,
    PASSES_MOST,
    QUESTION_MOST,
    QUESTIONS_MOST,
    RANGE_MOST,
    TAKES_MOST,
    ClickSound,
    RecordingRules,
    SoundChoice,
)  # fmt: skip
from ear.practice.showing import PERCENTS, TERMS_MOST, InWords, Skill, ToShow
from oido.common.fields import offer
from oido.common.problems import add_problem
from oido.exercises.forms.fields import tempo_field
from oido.exercises.models import Exercise
from oido.exercises.services import ExerciseFacts
from oido.exercises.showing import IN_WORDS, SKILL_NAMES

CLICK_SOUNDS = {ClickSound.TICK: _("tick"), ClickSound.WOOD: _("wood"), ClickSound.BELL: _("bell")}
SOUNDS = {
    SoundChoice.PIANO: _("piano"), SoundChoice.ELECTRIC_PIANO: _("electric piano"), SoundChoice.ORGAN: _("organ"),
    SoundChoice.STRINGS: _("strings"), SoundChoice.BASS: _("bass"),
}  # fmt: skip


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
        label=_("or from a file"), required=False, help_text=_(
            "A MIDI or MusicXML file. Its keyboard tracks are used, or its drums where there are more of these."
        ),
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
        label=_("students may hand in a corrected copy beside the take"), required=False
    )
    attempts = forms.IntegerField(
        label=_("Takes that may be recorded"), required=False, min_value=1, max_value=ATTEMPTS_MOST,
        help_text=_("Leave empty for no limit."),
    )  # fmt: skip
    least_takes = forms.IntegerField(
        label=_("Takes before one is handed in"), min_value=1, max_value=TAKES_MOST
    )

    handed_in_takes = forms.IntegerField(
        label=_("Takes handed in together"), min_value=1, max_value=TAKES_MOST
    )
    keys = forms.TypedMultipleChoiceField(
        label=_("Other keys allowed"), required=False, coerce=int,
        choices=[(fifths, f"{key_name(fifths)} / {key_name(fifths, is_minor=True)}") for fifths in range(-6, 7)],
        widget=forms.CheckboxSelectMultiple, help_text=_("None chosen: only the part’s own."),
    )  # fmt: skip
    shows_reading = forms.BooleanField(
        label=_("students see what Oido heard before the mark is released"), required=False
    )
    is_by_ear = forms.BooleanField(
        label=_("by ear: heard, and shown nowhere until a take is handed in"), required=False
    )
    hears = forms.IntegerField(
        label=_("By ear it may be heard, times"), min_value=1, max_value=HEARS_MOST, required=False,
        help_text=_("Leave empty for no limit."),
    )  # fmt: skip
    hears_first = forms.BooleanField(label=_("to be heard once before it is recorded"), required=False)
    has_questions_only = forms.BooleanField(
        label=_("questions only: nothing is recorded, the answers are handed in"), required=False
    )
    shown_percent = forms.TypedChoiceField(
        label=_("Its share of the mark"), coerce=int, choices=[(percent, f"{percent} %") for percent in PERCENTS],
        help_text=_("The rest is the take itself. How much help costs, the rubric says."),
    )  # fmt: skip
    questions = forms.CharField(
        label=_("Questions at hand-in"), required=False, widget=forms.Textarea(attrs={"rows": 3}),
        help_text=_("One per line, such as: What did quantising do to your take?"),
    )  # fmt: skip

    class Meta:
        model = Exercise
        fields = ["title", "level", "instructions"]
        widgets = {"instructions": forms.Textarea(attrs={"rows": 4})}

    GROUPS = (
        (_("The exercise"), ("title", "level", "instructions")),
        (_("Tempo and count-in"), ("tempo_bpm", "slower_percent", "faster_percent", "count_in_bars")),
        (_("Click"), ("has_click", "click_sound", "click_level", "click_divides")),
        (_("Hearing"), ("is_by_ear", "hears", "hears_first")),
        (_("Backing"), ("backing_from", "backing_file", "backing_level", "backing_while_recording")),
        (_("Takes"), ("attempts", "least_takes", "passes", "sounds", "keys")),
        (
            _("Handing in"),
            (
                "handed_in_takes",
                "allows_corrected_copies",
                "shows_reading",
                "questions",
                "has_questions_only",
            ),
        ),
    )
    KEEP, NONE = "keep", ""
    NOT_SHOWN = ""

    def __init__(self, *args: Any, exercise: Exercise, others: Any, **more: Any) -> None:
        rules = exercise.recording_rules
        initial = {name: getattr(rules, name) for name in RecordingRules.__dataclass_fields__}
        initial |= {
            "tempo_bpm": exercise.tempo_bpm, "count_in_bars": exercise.count_in_bars,
            "click_sound": rules.click_sound.value, "sounds": [sound.value for sound in rules.sounds],
            "backing_from": self.KEEP if exercise.backing else self.NONE, "questions": "\n".join(rules.questions),
        }  # fmt: skip
        super().__init__(*args, instance=exercise, initial=initial, **more)
        self.others = {str(other.pk): other for other in others}
        kept = [(self.KEEP, _("the one it has"))] if exercise.backing else []
        offer(self, "backing_from", [
            (self.NONE, _("none")), *kept, *((key, other.title) for key, other in self.others.items()),
        ])  # fmt: skip
        if not exercise.instrument.has_key:
            del self.fields["keys"], self.fields["sounds"]
        if exercise.part is not None and exercise.part.free is not None:
            del self.fields["is_by_ear"], self.fields["hears"], self.fields["hears_first"]
        asked = {one.skill: one for one in rules.to_show}
        for skill, name in SKILL_NAMES.items():
            if skill is Skill.LENGTHS and not exercise.instrument.has_length:
                continue
            known = asked.get(skill)
            self.fields[f"show-{skill.value}"] = forms.ChoiceField(
                label=capfirst(name), required=False, initial=known.in_words.value if known else self.NOT_SHOWN,
                choices=[(self.NOT_SHOWN, _("not asked")), *((w.value, said) for w, said in IN_WORDS.items())],
            )  # fmt: skip
            self.fields[f"terms-{skill.value}"] = forms.CharField(
                label=_("words to explain it with"), required=False, max_length=TERMS_MOST,
                initial=known.terms if known else "",
            )  # fmt: skip
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
                    name: cleaned.get(name, getattr(self.rules, name))
                    for name in RecordingRules.__dataclass_fields__
                    if name not in ("click_sound", "sounds", "keys", "to_show")
                },
                click_sound=ClickSound(cleaned["click_sound"]),
                sounds=tuple(SoundChoice(sound) for sound in cleaned.get("sounds", ())),
                keys=tuple(cleaned.get("keys", ())),
                to_show=tuple(self._to_show(cleaned)),
            )
        except EarError as problem:
            add_problem(self, problem)
        self.backing = self._backing(cleaned)
        return cleaned

    def clean_questions(self) -> tuple[str, ...]:
        asked = tuple(line.strip() for line in self.cleaned_data["questions"].splitlines() if line.strip())
        if len(asked) > QUESTIONS_MOST or any(len(question) > QUESTION_MOST for question in asked):
            raise forms.ValidationError(
                _("Up to %(count)s questions, each of up to %(length)s characters.")
                % {"count": QUESTIONS_MOST, "length": QUESTION_MOST}
            )
        return asked

    def _to_show(self, cleaned: dict[str, Any]) -> Iterator[ToShow]:
        for skill in SKILL_NAMES:
            said = cleaned.get(f"show-{skill.value}")
            if said:
                in_words = InWords(said)
                terms = cleaned[f"terms-{skill.value}"].strip() if in_words is InWords.LESSON else ""
                yield ToShow(skill=skill, in_words=in_words, terms=terms)

    def _backing(self, cleaned: dict[str, Any]) -> Part | None:
        file, source = cleaned.get("backing_file"), cleaned.get("backing_from")
        if file is not None:
            if file.size > FILE_BYTES:
                self.add_error("backing_file", _("This file is too large for an exercise (over 4 MB)."))
                return None
            try:
                opened = opened_from_json(checked(told_apart(file.read())))
                return check_fits(opened.part(opened.first_choice(opened.kind), kind=opened.kind))
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
        return [
            (title, [self[name] for name in names if name in self.fields]) for title, names in self.GROUPS
        ]

    @property
    def to_show(self) -> list[tuple[Any, Any]]:
        """Of each thing that a copy may be asked to show, how it is asked, and with which words."""
        return [
            (self[f"show-{skill.value}"], self[f"terms-{skill.value}"])
            for skill in SKILL_NAMES
            if f"show-{skill.value}" in self.fields
        ]
