"""Tools for notes one by one: pick, put, write, set, move, lengthen, delete."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import ngettext, pgettext_lazy

from ear.conventions import PLAIN
from ear.drawing.placing import Place, place_at
from ear.editing import bars, drawing, lengths
from ear.editing.cleaning import NoteTrouble
from ear.editing.edited import ALL, Edited, Selection
from ear.editing.pasting import paste
from ear.editing.picking import alike, next_note, pick, whole_bars
from ear.formats.plain_text import read_lines
from ear.formats.plain_writing import plain_lines
from ear.labels import LabelKind
from ear.labels.typed_names import read_name, read_note
from ear.notes import STANDARD_KIT, Hand, Note, Ornament, Part, ornaments_of
from ear.notes.note import MAX_LABEL_LENGTH
from ear.units import MAX_PITCH, MAX_VELOCITY, MIN_PITCH, TICKS_PER_QUARTER
from oido.bench.page import BenchView
from oido.bench.tools.base import HAND_CHOICES, Tool, ValueField, hand_named, value_field, whole_field
from oido.common.fields import offer
from oido.common.problems import PageProblem

DECIMALS = 4
"""Of beats and crotchets on the note card: a tick is more than two thousandths of a crotchet."""
MAX_PASTE_TICKS = bars.MAX_BARS * 8 * 4 * TICKS_PER_QUARTER
MAX_TEXT_LENGTH = 400_000
TEXT_WIDTH = 34
"""Characters that the column beside the page has room for."""
LOOKS = (
    ("", pgettext_lazy("choice", "any")), (NoteTrouble.DOUBLE.value, _("struck twice at once")), (NoteTrouble.TINY.value, _("too short and soft")),
    (NoteTrouble.SLIP.value, _("a neighbouring key caught by accident")),
    (NoteTrouble.OVERLAP.value, _("struck again while held")), (NoteTrouble.OFF_GRID.value, _("off the grid")),
)  # fmt: skip


class PickTool(Tool):
    slug, title, button = "pick", _("Pick notes"), _("Pick")

    first_bar = whole_field(_("First bar"), 0, bars.MAX_BARS, 1)
    last_bar = whole_field(_("Last bar"), 0, bars.MAX_BARS)
    of = forms.ChoiceField(label=_("Hand or lane"), required=False)
    name = forms.CharField(label=_("Pitch"), required=False, max_length=8, help_text=_("such as C4"))
    shorter_than = ValueField(
        label=_("Shorter than"),
        before=[("", pgettext_lazy("choice", "any"))],
        required=False,
        empty_value=None,
    )
    softer_than = whole_field(_("Softer than (velocity)"), 1, MAX_VELOCITY, required=False)
    off_by_more_than = whole_field(_("Off the grid by more than (% of a crotchet)"), 0, 100, required=False)
    looks = forms.ChoiceField(label=_("Possible mistakes"), required=False, choices=LOOKS)

    def fit(self, part: Part) -> None:
        self.fields["last_bar"].initial = part.last_bar
        choices: list[tuple[str, Any]] = [("", pgettext_lazy("choice", "all"))]
        if part.instrument.has_lanes:
            del self.fields["name"]
        if not part.instrument.has_length:
            del self.fields["shorter_than"]
        if part.instrument.has_key:
            choices += HAND_CHOICES
        else:
            choices += [
                (name, name) for name in sorted({STANDARD_KIT.lane(n.pitch).name for n in part.notes})
            ]
        offer(self, "of", choices)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c, has_lanes = self.cleaned_data, part.instrument.has_lanes
        pitch = read_name(c["name"], part, conventions=self.conventions) if c.get("name") else None
        picked = pick(
            part,
            from_pitch=MIN_PITCH if pitch is None else pitch,
            to_pitch=MAX_PITCH if pitch is None else pitch,
            first_bar=c["first_bar"],
            last_bar=c["last_bar"],
            hand=None if has_lanes else hand_named(c["of"]),
            lane=(c["of"] or None) if has_lanes else None,
            shorter_than=c.get("shorter_than"),
            softer_than=c["softer_than"],
            off_by_more_than=_share_of_crotchet(c["off_by_more_than"]),
            trouble=NoteTrouble(c["looks"]) if c["looks"] else None,
        )
        return Edited(part=part, selected=picked)


def _share_of_crotchet(percent: int | None) -> int | None:
    """Return a share of a crotchet in ticks; None for none."""
    return None if percent is None else round(percent * TICKS_PER_QUARTER / 100)


FIRST_PITCH = {False: 60, True: 36}
"""Middle C, and the kick: where a first note of a keyboard or a kit is put."""
PLAIN_LOOK = BenchView(labels=frozenset({LabelKind.CHORDS}), conventions=PLAIN)
"""Of labels only chord names change where the staves stand."""


def note_numbers(text: str, part: Part) -> list[int]:
    """Return the indices of the notes that a page names. Indices outside the part are left out."""
    return [int(word) for word in text.split() if word.isdecimal() and int(word) < len(part.notes)]


class TouchTool(Tool):
    """One note by index, the next one, those inside a box, whole bars: what pointer and keys do."""

    slug, title = "touch", _("Pick a note")

    note = forms.IntegerField(required=False, min_value=0)
    way = forms.ChoiceField(
        required=False,
        choices=[(way, "") for way in ("", "next", "before", "none", "all", "bars", "alike")],
    )
    bar = whole_field("", 1, bars.MAX_BARS, required=False)
    notes = forms.CharField(required=False, max_length=200_000)
    more = forms.BooleanField(required=False)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        if c["notes"]:
            boxed = frozenset(note_numbers(c["notes"], part))
            picked = selected | boxed if c["more"] else boxed
        elif c["bar"]:
            picked = pick(part, first_bar=c["bar"], last_bar=c["bar"])
            picked = selected | picked if c["more"] else picked
        elif c["way"] == "all":
            picked = frozenset(range(len(part.notes)))
        elif c["way"] in ("bars", "alike"):
            picked = (whole_bars if c["way"] == "bars" else alike)(part, selected)
        elif c["way"]:
            picked = ALL if c["way"] == "none" else next_note(part, selected, forward=c["way"] == "next")
        elif c["note"] is None or c["note"] >= len(part.notes):
            picked = selected
        elif c["more"]:
            picked = selected ^ {c["note"]}
        else:
            picked = ALL if selected == {c["note"]} else frozenset({c["note"]})
        return Edited(part=part, selected=picked)


class PutTool(Tool):
    """One note where a row was clicked twice: the server reads the place off the drawing. By keyboard at a tick, at the
    pitch of the note that is picked, or the last one before."""

    slug, title = "put", _("Add a note")

    row = forms.IntegerField(min_value=0, required=False)
    x = forms.FloatField(required=False)
    y = forms.FloatField(required=False)
    tick = whole_field("", 0, MAX_PASTE_TICKS, required=False)
    value = value_field("")

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        if c["tick"] is not None:
            place: Place | None = self._by_keyboard(part, selected, c["tick"])
        elif None in (c["row"], c["x"], c["y"]):
            raise PageProblem(_("There is no line or space for a note there."))
        else:
            row = PLAIN_LOOK.page(part, only={c["row"]})
            place = place_at(part, row, x=c["x"], y=c["y"], grid_ticks=c["value"])
        if place is None:
            raise PageProblem(_("There is no line or space for a note there."))
        note = Note(
            onset_tick=place.tick, length_tick=part.instrument.written_ticks(c["value"]), pitch=place.pitch,
            velocity=drawing.strength_near(part, place.tick, place.hand), hand=place.hand,
        )  # fmt: skip
        return drawing.add(part, note)

    def _by_keyboard(self, part: Part, selected: Selection, tick: int) -> Place:
        before = [i for i, n in enumerate(part.notes) if n.onset_tick <= tick]
        near = min(selected) if selected else before[-1] if before else 0
        if near < len(part.notes):
            return Place(tick=tick, pitch=part.notes[near].pitch, hand=part.notes[near].hand)
        return Place(
            tick=tick,
            pitch=FIRST_PITCH[part.instrument.has_lanes],
            hand=None if part.instrument.has_lanes else Hand.RIGHT,
        )


class TextTool(Tool):
    """The part as text, beside the page: what is changed there changes the page."""

    slug, title, button = "text", _("The part as text"), _("Write the notes")

    text = forms.CharField(
        label=_("Bar by bar"), required=False, max_length=MAX_TEXT_LENGTH, strip=False,
        widget=forms.Textarea(attrs={"rows": 12, "spellcheck": "false", "autocapitalize": "off", "autocomplete": "off"}),
    )  # fmt: skip

    def fit(self, part: Part) -> None:
        self.fields["text"].initial = plain_lines(part, self.conventions, width=TEXT_WIDTH)
        self.fields["text"].help_text = TEXT_HELP[part.instrument.has_lanes, self.conventions.is_american]

    def apply(self, part: Part, selected: Selection) -> Edited:
        return read_lines(part, self.cleaned_data["text"], conventions=self.conventions)

    def after(self, part: Part, selected: Selection) -> Tool:
        """What was typed stays as it was typed, if it says the whole part."""
        tool, typed = TextTool(part=part, conventions=self.conventions), self.cleaned_data["text"]
        if _bars_named(typed) >= _bars_named(tool.fields["text"].initial):
            tool.fields["text"].initial = typed
        return tool


def _bars_named(text: str) -> set[str]:
    """Return the numbers with which lines of a part's text begin."""
    return {words[0].rstrip(":.") for line in text.splitlines() if (words := line.split())}


_DRUMS_HELP = _(
    "kick+hat hat snare+hat hat: from beat to beat, or hat/8 hat hat; - rests, | is the next bar, 2.5=hat is on 2.5. Behind a "
    "name: @40 a velocity, ~flam an ornament. In quotes, words over the bar."
)
TEXT_HELP = {
    (False, False): _(
        "C4/4 D E/8 F/8. G+B/2 -/4: 4 is a crotchet, 8t of a triplet, 4+8 tied; - rests, _ holds on, | is the next bar, R: and L: "
        "are the hands. Behind a name: (3) a finger, ' staccato, _ tenuto, > accent, @90 a velocity, { and } a slur, ! a fermata, "
        '~trill an ornament, "la-" a word under it. [Am7] is a chord name; words over the bar stand in quotes. Bar 0 is a pick-up.'
    ),
    (False, True): _(
        "C4/4 D E/8 F/8. G+B/2 -/4: 4 is a quarter note, 8t of a triplet, 4+8 tied; - rests, _ holds on, | is the next bar, R: and "
        "L: are the hands. Behind a name: (3) a finger, ' staccato, _ tenuto, > accent, @90 a velocity, { and } a slur, ! a fermata, "
        '~trill an ornament, "la-" a word under it. [Am7] is a chord name; words over the bar stand in quotes. Bar 0 is a pick-up.'
    ),
    (True, False): _DRUMS_HELP,
    (True, True): _DRUMS_HELP,
}
"""By whether there are lanes, and whether note values have American names."""


class PasteTool(Tool):
    """Notes of a stored state of this working copy or another, put at a place."""

    slug, title = "paste", _("Paste")

    state = forms.IntegerField(min_value=0)
    of = forms.CharField(required=False, max_length=20)
    """Where it was copied, if that was elsewhere."""
    notes = forms.CharField(max_length=200_000)
    tick = whole_field("", 0, MAX_PASTE_TICKS)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        was = self.stored(c["state"], c["of"])
        if was is None:
            raise PageProblem(_("The copied notes are gone: copy them again."))
        if was.kind is not part.kind:
            raise PageProblem(_("The copied notes are for another instrument."))
        return paste(part, [was.notes[i] for i in note_numbers(c["notes"], was)], at_tick=c["tick"])


ORNAMENTS = {
    Ornament.FLAM: _("flam"), Ornament.DRAG: _("drag"), Ornament.ROLL: _("roll"), Ornament.TRILL: _("trill"),
    Ornament.MORDENT: _("mordent"), Ornament.UPPER_MORDENT: _("upper mordent"), Ornament.TURN: _("turn"),
    Ornament.GRACE: _("grace note"),
}  # fmt: skip


class NoteTool(Tool):
    """The card of one note: its exact figures, to be read and typed."""

    slug, title, button = "note", _("Note card"), _("Set")

    bar = whole_field(pgettext_lazy("label", "Bar"), 0, bars.MAX_BARS)
    beat = forms.FloatField(
        label=_("Beat"),
        min_value=1,
        max_value=100,
        help_text=_("with its fraction: 2.5 is halfway through beat 2"),
    )
    length = forms.FloatField(
        label=_("Length in crotchets"), min_value=round(1 / TICKS_PER_QUARTER, DECIMALS), max_value=40,
        help_text=_("0.5 is a quaver"),
    )  # fmt: skip
    name = forms.CharField(
        label=_("Pitch"),
        max_length=24,
        help_text=_("It is written the way you type it: C♯5 or D♭5, C#5 or Db5."),
    )
    velocity = whole_field(_("Velocity"), 1, 127)
    ornament = forms.ChoiceField(label=_("Ornament"), required=False)
    small = forms.CharField(
        label=_("Pitch of the grace note"),
        required=False,
        max_length=24,
        help_text=_("Leave empty for the next note up in the key."),
    )
    word = forms.CharField(
        label=_("Word under the note"),
        required=False,
        max_length=MAX_LABEL_LENGTH,
        help_text=_("A syllable, a count or a sticking."),
    )

    def fit(self, part: Part) -> None:
        if part.instrument.has_lanes:
            self.fields["name"].label = pgettext_lazy("state", "Lane")
            del self.fields["small"]
        names = [(each.value, ORNAMENTS[each]) for each in ornaments_of(part.instrument)]
        offer(self, "ornament", [("", pgettext_lazy("choice", "none")), *names])
        if len(self.selected) != 1:
            return
        note = part.notes[min(self.selected)]
        self.initial = {
            **place_of(part, note), "length": round(note.length_tick / TICKS_PER_QUARTER, DECIMALS), "name": self.conventions.sound(part, note.pitch, tick=note.onset_tick),
            "velocity": note.velocity, "ornament": note.ornament.value if note.ornament else "", "word": note.label or "",
            "small": "" if note.grace_semitones is None else self.conventions.sound(part, note.pitch + note.grace_semitones, tick=note.onset_tick),
        }  # fmt: skip

    def apply(self, part: Part, selected: Selection) -> Edited:
        if len(selected) != 1:
            raise PageProblem(_("Pick one note first."))
        c = self.cleaned_data
        note, name_fifth = part.notes[min(selected)], None
        if part.instrument.has_lanes:
            pitch = read_name(c["name"], part, conventions=self.conventions)
        else:
            pitch, name_fifth = read_note(c["name"].strip(), note.pitch, self.conventions)
        edited = drawing.set_note(
            part, selected, onset_tick=read_place(part, c["bar"], c["beat"]),
            length_tick=max(1, round(c["length"] * TICKS_PER_QUARTER)), pitch=pitch,
            velocity=c["velocity"],
        )  # fmt: skip
        ornament = Ornament(c["ornament"]) if c["ornament"] else None
        edited = drawing.set_ornament(
            edited.part, edited.selected, ornament=ornament, grace_semitones=self._grace(ornament, pitch)
        )
        edited = drawing.set_word(edited.part, edited.selected, word=" ".join(c["word"].split()))
        # A name that was typed is kept; one that stood there already stays the part's own.
        is_as_it_was = note.name_fifth is None and name_fifth == part.name_of(note.pitch, note.onset_tick)
        if name_fifth is None or is_as_it_was:
            return edited
        return drawing.set_name(edited.part, edited.selected, name_fifth=name_fifth)

    def _grace(self, ornament: Ornament | None, pitch: int) -> int | None:
        """How far above its note the grace note is, if that is said."""
        small = self.cleaned_data.get("small", "").strip()
        if ornament is not Ornament.GRACE or not small:
            return None
        return read_note(small, pitch, self.conventions)[0] - pitch

    def after(self, part: Part, selected: Selection) -> Tool:
        return NoteTool(part=part, selected=selected, conventions=self.conventions)


def place_of(part: Part, note: Note) -> dict[str, float]:
    """Return where a note begins as the note card writes it: its bar, and its beat with a decimal fraction."""
    at = part.meters.position(note.onset_tick)
    beat_ticks = part.meters.bar(at.bar).meter.beat_ticks
    return {"bar": at.bar, "beat": round(at.beat + at.tick / beat_ticks, DECIMALS)}


def read_place(part: Part, number: int, beat: float) -> int:
    """Return the tick of a beat, from 1 and with its fraction, in a bar. Raise PageProblem for a beat after its end."""
    bar = part.meters.bar(number)
    into = round((beat - 1) * bar.meter.beat_ticks)
    if into >= bar.meter.bar_ticks:
        raise PageProblem(
            ngettext(
                "Bar %(bar)s has one beat, so beat %(beat)s is outside it.",
                "Bar %(bar)s has %(count)s beats, so beat %(beat)s is outside it.",
                bar.meter.beats,
            )
            % {"bar": number, "count": bar.meter.beats, "beat": f"{beat:g}"}
        )
    return bar.start_tick + into


class MoveTool(Tool):
    slug, title, button = "move", _("Move"), _("Move")

    value = ValueField(label=_("Note value"), after=[(1, _("smallest step"))], initial=240)
    times = whole_field(_("How many (− earlier)"), -64, 64, 0)
    semitones = whole_field(_("Semitones (− down)"), -48, 48, 0)

    def fit(self, part: Part) -> None:
        if part.instrument.has_lanes:
            del self.fields["semitones"]

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        return drawing.move(part, selected, ticks=c["value"] * c["times"], semitones=c.get("semitones") or 0)


class LengthTool(Tool):
    slug, title, needs = "length", pgettext_lazy("choice", "Length"), "has_length"

    how = forms.ChoiceField(
        label=_("Change"),
        choices=(
            ("value", _("to the chosen value")), ("legato", _("to last until the next note")),
            ("half", _("half as long")), ("longer", _("longer by the chosen value")), ("shorter", _("shorter by the chosen value")),
        ),
    )  # fmt: skip
    value = value_field(_("Chosen value"))

    def apply(self, part: Part, selected: Selection) -> Edited:
        how, ticks = self.cleaned_data["how"], self.cleaned_data["value"]
        match how:
            case "legato":
                return lengths.legato(part, selected)
            case "half":
                return lengths.scale_lengths(part, selected, share=0.5)
            case "longer" | "shorter":
                return drawing.lengthen(part, selected, ticks=ticks if how == "longer" else -ticks)
            case _:
                return drawing.set_length(part, selected, ticks=ticks)


class DeleteTool(Tool):
    slug, title, button = "delete", pgettext_lazy("choice", "Delete"), _("Delete picked notes")

    def apply(self, part: Part, selected: Selection) -> Edited:
        return drawing.delete(part, selected)
