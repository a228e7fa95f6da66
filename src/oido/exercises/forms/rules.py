"""How an exercise is recorded."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from django import forms
from django.utils.text import capfirst
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.errors import EarError
from ear.formats.importing import opened_from_json
from ear.formats.limits import FILE_BYTES
from ear.formats.multi_part_import import check_fits
from ear.formats.part_json import part_from_json
from ear.formats.sandboxed_reader import checked, read_in_sandbox
from ear.notes import Part
from ear.practice.rules import (
    MAX_ATTEMPTS,
    MAX_LEVEL,
    MAX_LISTENS,
    MAX_PASSES,
    MAX_QUESTION_LENGTH,
    MAX_QUESTIONS,
    MAX_RANGE,
    MAX_SHORTEST_TAKE_BARS,
    MAX_TAKES,
    ClickSound,
    PlayingAid,
    RecordingRules,
    SoundChoice,
)  # fmt: skip
from ear.practice.showing import MAX_TERMS, PERCENTS, InWords, Skill, ToShow
from ear.words.keys import describe_keys
from oido.common.fields import offer
from oido.common.forms import FormData, ModelForm
from oido.common.problems import add_problem
from oido.common.readers import usual_reader
from oido.exercises.forms.fields import tempo_field
from oido.exercises.models import Exercise
from oido.exercises.rule_texts import CHOICES, CLICK_SOUNDS, HELPS, SOUNDS
from oido.exercises.services import ExerciseFacts
from oido.exercises.showing import IN_WORDS, SKILL_NAMES


class RulesForm(ModelForm[Exercise]):
    """One choice of what an exercise says of itself and of its recordings; all others stay as they are."""

    tempo_bpm = tempo_field()
    count_in_bars = forms.IntegerField(label=_("Count-in bars"), min_value=0, max_value=4)
    slower_percent = forms.IntegerField(
        label=_("How much slower at most (%)"), min_value=0, max_value=MAX_RANGE
    )
    faster_percent = forms.IntegerField(
        label=_("How much faster at most (%)"), min_value=0, max_value=MAX_RANGE
    )
    has_click = forms.BooleanField(label=_("with a click"), required=False)
    click_sound = forms.TypedChoiceField(
        label=_("Sound of the click"),
        coerce=ClickSound,
        choices=[(k.value, v) for k, v in CLICK_SOUNDS.items()],
    )
    click_level = forms.IntegerField(label=_("Click volume, %"), min_value=0, max_value=MAX_LEVEL)
    click_divides = forms.TypedChoiceField(
        label=_("Click subdivision"), coerce=int,
        choices=((1, pgettext_lazy("choice", "beats")), (2, _("half beats")), (3, _("thirds of a beat")), (4, _("quarter beats"))),
    )  # fmt: skip
    backing_from = forms.ChoiceField(label=_("Backing part"), required=False)
    backing_file = forms.FileField(
        label=_("or from a file"), required=False, help_text=_(
            "A MIDI or MusicXML file. Its keyboard tracks are used, or its drum tracks if there are more of them."
        ),
    )  # fmt: skip
    backing_level = forms.IntegerField(label=_("Backing volume, %"), min_value=0, max_value=MAX_LEVEL)
    backing_while_recording = forms.BooleanField(label=_("heard while recording"), required=False)
    sounds = forms.TypedMultipleChoiceField(
        label=_("Sounds allowed"), required=False, coerce=SoundChoice, choices=[(k.value, v) for k, v in SOUNDS.items()],
        widget=forms.CheckboxSelectMultiple, help_text=_("None chosen: all."),
    )  # fmt: skip
    passes = forms.IntegerField(label=_("Passes in one take"), min_value=1, max_value=MAX_PASSES)
    allows_corrected_copies = forms.BooleanField(
        label=_("students may hand in a corrected copy beside the take"), required=False
    )
    withheld = forms.TypedMultipleChoiceField(
        label=_("Not shown while playing"), required=False, coerce=PlayingAid, choices=[(k.value, v) for k, v in HELPS.items()],
        widget=forms.CheckboxSelectMultiple,
    )  # fmt: skip
    least_bars = forms.IntegerField(
        label=_("A recording counts as a take from bar"), min_value=0, max_value=MAX_SHORTEST_TAKE_BARS, help_text=_(
            "A recording stopped before the end of this bar is a false start: it is not saved as a take and not counted as an attempt."
        ),
    )  # fmt: skip
    attempts = forms.IntegerField(
        label=_("Takes allowed"), required=False, min_value=1, max_value=MAX_ATTEMPTS,
        help_text=_("Leave empty for no limit."),
    )  # fmt: skip
    least_takes = forms.IntegerField(
        label=_("Takes before one is handed in"), min_value=1, max_value=MAX_TAKES
    )

    handed_in_takes = forms.IntegerField(
        label=_("Takes handed in together"), min_value=1, max_value=MAX_TAKES
    )
    keys = forms.TypedMultipleChoiceField(
        label=_("Other keys allowed"), required=False, coerce=int,
        choices=lambda: [(fifths, describe_keys(fifths, usual_reader())) for fifths in range(-6, 7)],
        widget=forms.CheckboxSelectMultiple, help_text=_("None chosen: only the part’s own."),
    )  # fmt: skip
    shows_analysis = forms.BooleanField(
        label=_("students see what Oido heard before the mark is released"), required=False
    )
    is_by_ear = forms.BooleanField(
        label=_("by ear: heard, and shown nowhere until a take is handed in"), required=False
    )
    listen_limit = forms.IntegerField(
        label=_("How often it may be heard"), min_value=1, max_value=MAX_LISTENS, required=False,
        help_text=_("Leave empty for no limit."),
    )  # fmt: skip
    must_listen_first = forms.BooleanField(label=_("must be heard once before recording"), required=False)
    has_questions_only = forms.BooleanField(
        label=_("questions only: nothing is recorded, the answers are handed in"), required=False
    )
    shown_percent = forms.TypedChoiceField(
        label=_("Its share of the mark"), coerce=int, choices=[(percent, f"{percent}%") for percent in PERCENTS],
        help_text=_("The rest is the take itself. The rubric says how much help costs."),
    )  # fmt: skip
    questions = forms.CharField(
        label=_("Questions at hand-in"), required=False, widget=forms.Textarea(attrs={"rows": 3}),
        help_text=_("One per line, such as: What did quantising do to your take?"),
    )  # fmt: skip

    class Meta:
        model = Exercise
        fields = ["title", "level", "instructions"]
        widgets = {"instructions": forms.Textarea(attrs={"rows": 4})}

    KEEP, NONE = "keep", ""
    NOT_SHOWN = ""

    def __init__(
        self, data: FormData = None, *, exercise: Exercise, choice: str, others: Any, **more: Any
    ) -> None:
        rules = exercise.recording_rules
        initial = {name: getattr(rules, name) for name in RecordingRules.__dataclass_fields__}
        initial |= {
            "tempo_bpm": exercise.tempo_bpm, "count_in_bars": exercise.count_in_bars,
            "click_sound": rules.click_sound.value, "sounds": [sound.value for sound in rules.sounds], "withheld": [one.value for one in rules.withheld],
            "backing_from": self.KEEP if exercise.backing else self.NONE, "questions": "\n".join(rules.questions),
        }  # fmt: skip
        super().__init__(data, instance=exercise, initial=initial, auto_id="rule_%s", **more)
        self.exercise, self.choice, self.rules = exercise, choice, rules
        self.backing: Part | None = None
        self.fields = {name: self.fields[name] for name in CHOICES[choice] if name in self.fields}
        if choice == "backing":
            self.others = {str(other.pk): other for other in others}
            kept = [(self.KEEP, _("keep the current one"))] if exercise.backing else []
            offer(self, "backing_from", [
                (self.NONE, pgettext_lazy("choice", "none")), *kept, *((key, other.title) for key, other in self.others.items()),
            ])  # fmt: skip
        if choice == "showing":
            self.fields = {**self._showing_fields(), **self.fields}

    def _showing_fields(self) -> dict[str, forms.Field]:
        """Of each thing that a copy may be asked to show, how it is asked, and with which words."""
        fields: dict[str, forms.Field] = {}
        asked = {one.skill: one for one in self.rules.to_show}
        for skill, name in SKILL_NAMES.items():
            if skill is Skill.LENGTHS and not self.exercise.instrument.has_length:
                continue
            known = asked.get(skill)
            fields[f"show-{skill.value}"] = forms.ChoiceField(
                label=capfirst(name), required=False, initial=known.in_words.value if known else self.NOT_SHOWN,
                choices=[(self.NOT_SHOWN, _("not asked")), *((w.value, explained) for w, explained in IN_WORDS.items())],
            )  # fmt: skip
            fields[f"terms-{skill.value}"] = forms.CharField(
                label=_("words to explain it with"), required=False, max_length=MAX_TERMS,
                initial=known.terms if known else "",
            )  # fmt: skip
        return fields

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if self.errors:
            return cleaned
        chosen: dict[str, Any] = {
            name: tuple(value) if isinstance(value, list) else value
            for name, value in cleaned.items()
            if name in RecordingRules.__dataclass_fields__
        }
        try:
            if self.choice == "showing":
                chosen["to_show"] = tuple(self._to_show(cleaned))
            self.rules = replace(self.rules, **chosen)
        except EarError as problem:
            add_problem(self, problem)
        self.backing = self._backing(cleaned)
        return cleaned

    def clean_questions(self) -> tuple[str, ...]:
        asked = tuple(line.strip() for line in self.cleaned_data["questions"].splitlines() if line.strip())
        if len(asked) > MAX_QUESTIONS or any(len(question) > MAX_QUESTION_LENGTH for question in asked):
            raise forms.ValidationError(
                _("Up to %(count)s questions, each of up to %(length)s characters.")
                % {"count": MAX_QUESTIONS, "length": MAX_QUESTION_LENGTH}
            )
        return asked

    def _to_show(self, cleaned: dict[str, Any]) -> Iterator[ToShow]:
        for skill in SKILL_NAMES:
            wanted = cleaned.get(f"show-{skill.value}")
            if wanted:
                in_words = InWords(wanted)
                terms = cleaned[f"terms-{skill.value}"].strip() if in_words is InWords.LESSON else ""
                yield ToShow(skill=skill, in_words=in_words, terms=terms)

    def _backing(self, cleaned: dict[str, Any]) -> Part | None:
        file, source = cleaned.get("backing_file"), cleaned.get("backing_from")
        if file is not None:
            if file.size > FILE_BYTES:
                self.add_error("backing_file", _("This file is too large for an exercise (over 4 MB)."))
                return None
            try:
                opened = opened_from_json(checked(read_in_sandbox(file.read())))
                return check_fits(opened.part(opened.first_choice(opened.kind), kind=opened.kind))
            except EarError as problem:
                self.add_error(
                    "backing_file", _("This file cannot be read: %(problem)s.") % {"problem": problem}
                )
                return None
        had = part_from_json(self.exercise.backing) if self.exercise.backing else None
        if self.choice != "backing" or source == self.KEEP:
            return had
        return self.others[source].part.read() if source in self.others else None

    def facts(self) -> ExerciseFacts:
        c, e = self.cleaned_data, self.exercise
        return ExerciseFacts(
            title=c.get("title", e.title), instructions=c.get("instructions", e.instructions),
            tempo_bpm=c.get("tempo_bpm", e.tempo_bpm), count_in_bars=c.get("count_in_bars", e.count_in_bars),
            level=c.get("level", e.level),
        )  # fmt: skip
