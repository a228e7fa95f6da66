"""A file sent, and what to take of it."""

from decimal import Decimal
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.errors import EarError
from ear.formats.importing import HandsFrom, OpenedFile, open_file
from ear.formats.limits import FILE_BYTES
from ear.notes import Kind, Part
from oido.common.fields import offer
from oido.common.problems import add_problem
from oido.exercises.bundle import Bundled, is_bundle, read_bundle
from oido.exercises.forms.fields import BARS_MAX, NOTES_MAX, tempo_field
from oido.exercises.models import Exercise, KindChoice
from oido.exercises.services import NewExercise

HANDS = (
    (HandsFrom.FILE.value, _("as in the file")), (HandsFrom.SPLIT.value, _("split at middle C")),
    (HandsFrom.RIGHT.value, _("all right")), (HandsFrom.LEFT.value, _("all left")), (HandsFrom.NONE.value, _("none")),
)  # fmt: skip


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
        if file.size > FILE_BYTES:
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
    take = forms.MultipleChoiceField(label=_("Tracks"), widget=forms.CheckboxSelectMultiple)
    hands = forms.ChoiceField(label=_("Hands"), choices=HANDS, required=False)
    tempo_bpm = tempo_field(
        required=False, help_text=_("Quarter notes per minute. Leave empty to use the file’s own tempo.")
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
        offer(self, "take", [(c.key, c.name) for c in opened.choices])

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
            add_problem(self, problem, otherwise="take")
            return cleaned
        if not part.notes:
            self.add_error("take", _("The chosen tracks hold no notes."))
        elif len(part.notes) > NOTES_MAX or len(part.bars) > BARS_MAX:
            self.add_error(
                "take",
                _(
                    "An exercise can have up to %(bars)s bars and %(notes)s notes; this file has %(b)s and %(n)s."
                )
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
            tempo_bpm=c["tempo_bpm"] or Decimal(f"{part.tempos.first_bpm:.2f}"),
            count_in_bars=c["count_in_bars"],
            level=c["level"],
            part=part,
            source_name=source_name,
            source_file=source_file,
        )
