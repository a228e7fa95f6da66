from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.errors import EarError
from ear.formats.smf import BYTES_MAX, read_part
from ear.notes import Kind
from ear.units import BPM_MAX, BPM_MIN
from oido.exercises.models import Exercise, KindChoice
from oido.exercises.services import NewExercise

BARS_MAX = 400
NOTES_MAX = 12_000


class ExerciseForm(forms.ModelForm):
    """A new exercise. The tempo may be left out: then the file's own is taken."""

    kind = forms.ChoiceField(label=_("Kind"), choices=KindChoice.choices, widget=forms.RadioSelect)
    tempo_bpm = forms.DecimalField(
        label=_("Tempo"),
        required=False,
        min_value=int(BPM_MIN),
        max_value=int(BPM_MAX),
        decimal_places=2,
        help_text=_("Quarter notes a minute. Left empty, the file's own tempo is taken."),
    )
    count_in_bars = forms.IntegerField(label=_("Count-in bars"), min_value=0, max_value=4, initial=1)
    file = forms.FileField(label=_("Target part"), help_text=_("A Standard MIDI File (.mid), type 0 or 1."))

    class Meta:
        model = Exercise
        fields = ["title", "kind", "instructions", "tempo_bpm", "count_in_bars", "level"]
        widgets = {
            "instructions": forms.Textarea(attrs={"rows": 3}),
        }

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        file, kind = cleaned.get("file"), cleaned.get("kind")
        if file is None or not kind:
            return cleaned
        if file.size > BYTES_MAX:
            self.add_error("file", _("This file is too large for an exercise (over 4 MB)."))
            return cleaned
        data = file.read()
        try:
            part = read_part(data, kind=Kind(kind))
        except EarError as problem:
            self.add_error("file", _("This file cannot be read: %(problem)s.") % {"problem": problem})
            return cleaned
        if not part.notes:
            self.add_error("file", _("This file holds no notes."))
        elif len(part.notes) > NOTES_MAX or len(part.bars) > BARS_MAX:
            self.add_error(
                "file",
                _("An exercise has up to %(bars)s bars and %(notes)s notes; this file has %(b)s and %(n)s.")
                % {"bars": BARS_MAX, "notes": NOTES_MAX, "b": len(part.bars), "n": len(part.notes)},
            )
        cleaned["part"], cleaned["data"] = part, data
        if cleaned.get("tempo_bpm") is None and "tempo_bpm" not in self.errors:
            cleaned["tempo_bpm"] = round(part.tempos.first_bpm, 2)
        return cleaned

    def new_exercise(self) -> NewExercise:
        c = self.cleaned_data
        return NewExercise(
            title=c["title"],
            kind=c["kind"],
            instructions=c["instructions"],
            tempo_bpm=c["tempo_bpm"],
            count_in_bars=c["count_in_bars"],
            level=c["level"],
            part=c["part"],
            source_name=c["file"].name[:200],
            source_file=c["data"],
        )
