"""A file sent, and what to take of it."""

from collections.abc import Collection
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django import forms
from django.http import QueryDict
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.editing.cleaning import NoteTrouble, mended, troubles
from ear.errors import EarError
from ear.file_report import title_of
from ear.formats.importing import HandsFrom, OpenedFile, Taken, bars_to_take, check_start
from ear.formats.limits import FILE_BYTES, PART_BARS, PART_NOTES
from ear.formats.multi_part_import import fits
from ear.notes import Kind, Part
from ear.reader import Reader
from ear.words.places import describe_length, describe_place
from oido.common.fields import offer
from oido.common.forms import FormData, ModelForm
from oido.common.problems import add_problem, error_message
from oido.exercises.bundle import Bundled, is_bundle, read_bundle
from oido.exercises.forms.fields import tempo_field
from oido.exercises.models import MAX_TITLE_LENGTH, Exercise, KindChoice
from oido.exercises.services import NewExercise

ROWS_LISTED = 200
"""Notes of one trouble that are listed one by one; more are picked together."""
TROUBLES = {
    NoteTrouble.DOUBLE: (_("Struck twice at once"), _("delete the weaker")),
    NoteTrouble.TINY: (_("Very short and soft (probably accidental)"), pgettext_lazy("choice", "delete")),
    NoteTrouble.SLIP: (_("A neighbouring key caught by accident"), pgettext_lazy("choice", "delete")),
    NoteTrouble.OVERLAP: (_("Struck again while still held"), _("end where the key is struck again")),
    NoteTrouble.OFF_GRID: (_("Off the grid of semiquavers and triplets"), _("move to the nearest line")),
}
HANDS = (
    (HandsFrom.FILE.value, _("as in the file")), (HandsFrom.SPLIT.value, _("split at middle C")),
    (HandsFrom.RIGHT.value, _("all right")), (HandsFrom.LEFT.value, _("all left")), (HandsFrom.NONE.value, pgettext_lazy("choice", "none")),
)  # fmt: skip


class UploadForm(forms.Form):
    """A file from elsewhere: MIDI, MusicXML, or an exercise from another Oido."""

    file = forms.FileField(
        label=pgettext_lazy("label", "File"),
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
                # What is in it is read by a job; here only what is plainly no music is sent back.
                check_start(self.content)
        except EarError as problem:
            raise forms.ValidationError(error_message(problem)) from problem
        return file


@dataclass(frozen=True, slots=True, kw_only=True)
class TroubleRow:
    """One note that looks wrong, to be picked."""

    key: str
    text: str
    is_picked: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TroubleList:
    """The notes of one kind of trouble; all of them are picked at once by its own key."""

    trouble: NoteTrouble
    name: Any
    remedy: Any
    rows: tuple[TroubleRow, ...]
    count: int
    all_picked: bool

    @property
    def is_open(self) -> bool:
        """Are some of them picked one by one?"""
        return not self.all_picked and any(row.is_picked for row in self.rows)

    @property
    def more(self) -> int:
        """Notes that are not listed one by one."""
        return self.count - len(self.rows)


class ImportForm(ModelForm[Exercise]):
    """What to take of an opened file, and what the exercise is called."""

    kind = forms.ChoiceField(label=_("Kind"), choices=KindChoice.choices, widget=forms.RadioSelect)
    take = forms.MultipleChoiceField(
        label=_("Which of these is the part?"), widget=forms.CheckboxSelectMultiple
    )
    first_bar = forms.IntegerField(label=_("First bar"), min_value=0, required=False)
    last_bar = forms.IntegerField(label=_("Last bar"), min_value=1, required=False)
    hands = forms.ChoiceField(label=_("Hands"), choices=HANDS, required=False)
    tempo_bpm = tempo_field(
        required=False, help_text=_("Crotchets per minute. Leave empty to use the file’s own tempo.")
    )
    count_in_bars = forms.IntegerField(label=_("Count-in bars"), min_value=0, max_value=4, initial=1)

    class Meta:
        model = Exercise
        fields = ["title", "level", "instructions"]
        widgets = {"instructions": forms.Textarea(attrs={"rows": 2})}

    field_order = ["title", "kind", "take", "first_bar", "last_bar", "hands", "tempo_bpm", "count_in_bars"]

    def __init__(
        self, data: FormData = None, *, opened: OpenedFile, file_name: str, reader: Reader, **more: Any
    ) -> None:
        kind = opened.kind
        first = opened.first_choice(kind)
        whole = opened.take(first, kind=kind)
        bars = bars_to_take(whole.bars) or (whole.first_bar, whole.bars)
        initial = {
            "title": title_of(opened, file_name)[:MAX_TITLE_LENGTH], "kind": kind.value, "take": first,
            "hands": HandsFrom.FILE.value, "first_bar": bars[0], "last_bar": bars[1],
        }  # fmt: skip
        super().__init__(data, initial=initial, **more)
        self.opened, self.reader = opened, reader
        self.is_long = bars[1] < whole.bars
        self.begins_at, self.bars = whole.first_bar, whole.bars
        self.taken: Taken | None = None
        """What was chosen, before anything in it is mended."""
        self.part: Part | None = None
        self.troubles: list[TroubleList] = []
        offer(self, "take", [(c.key, c.name or f"{c.number}") for c in opened.choices])
        if not self.is_bound:
            taken = whole if not self.is_long else opened.take(first, kind=kind, bars=bars)
            self._read(taken, picked=frozenset())

    @property
    def proposed(self) -> bool:
        """Was something left out that could have been taken?"""
        return len(self.initial["take"]) < sum(1 for c in self.opened.choices if c.notes)

    def clean(self) -> dict[str, object]:
        cleaned = super().clean() or {}
        kind, take = cleaned.get("kind"), cleaned.get("take")
        if not kind or not take or self.errors.keys() & {"first_bar", "last_bar"}:
            return cleaned
        first, last = cleaned.get("first_bar"), cleaned.get("last_bar")
        try:
            taken = self.opened.take(
                take, kind=Kind(kind), hands=HandsFrom(cleaned.get("hands") or HandsFrom.FILE.value),
                bars=(self.begins_at if first is None else first, last or self.bars),
            )  # fmt: skip
        except EarError as problem:
            add_problem(self, problem, otherwise="last_bar")
            return cleaned
        part = taken.part
        if not part.notes:
            self.add_error("take", _("The chosen tracks hold no notes in these bars."))
        elif not fits(part):
            self.add_error(
                "last_bar",
                _(
                    "An exercise can have up to %(bars)s bars and %(notes)s notes; these are %(b)s and %(n)s. "
                    "Choose fewer bars."
                )
                % {"bars": PART_BARS, "notes": PART_NOTES, "b": len(part.bars), "n": len(part.notes)},
            )
        else:
            picked = self.data.getlist("mend") if isinstance(self.data, QueryDict) else ()
            self._read(taken, picked=frozenset(picked))
        return cleaned

    def _read(self, taken: Taken, *, picked: Collection[str]) -> None:
        """Find what looks wrong, and mend what was picked of it."""
        self.taken = taken
        part = taken.part
        mistakes = troubles(part)
        chosen: dict[NoteTrouble, list[int]] = {}
        for trouble, notes in mistakes.items():
            all_picked = trouble.value in picked
            keys = {i: f"{trouble.value}:{part.notes[i].onset_tick}-{part.notes[i].pitch}" for i in notes}
            chosen[trouble] = [i for i in notes if all_picked or keys[i] in picked]
            name, remedy = TROUBLES[trouble]
            rows = tuple(
                TroubleRow(key=keys[i], text=self._row(part, i), is_picked=all_picked or keys[i] in picked)
                for i in sorted(notes)[:ROWS_LISTED]
            )
            if rows:
                self.troubles.append(TroubleList(
                    trouble=trouble, name=name, remedy=remedy, rows=rows, count=len(notes),
                    all_picked=all_picked,
                ))  # fmt: skip
        self.part = mended(part, chosen)

    def _row(self, part: Part, i: int) -> str:
        """Where a note stands, which it is, how long and how strong."""
        note, bar = part.notes[i], part.bar_holding(i)
        into = note.onset_tick - bar.start_tick
        beat, rest = divmod(into, bar.meter.beat_ticks)
        place = describe_place(
            beat + 1,
            rest,
            beat_ticks=bar.meter.beat_ticks,
            is_compound=bar.meter.is_compound,
            reader=self.reader,
        )
        values = {
            "bar": bar.number, "place": place, "velocity": note.velocity,
            "length": describe_length(note.length_tick, self.reader),
            "note": self.reader.sound(part, note.pitch, tick=note.onset_tick),
        }  # fmt: skip
        return _("bar %(bar)s, %(place)s: %(note)s, length %(length)s, velocity %(velocity)s") % values

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
