"""Tools that shape many notes at once: grid, strength, bars, keys, hands, cleaning."""

from string import ascii_uppercase
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.editing import (
    bars,
    cleaning,
    drawing,
    hands,
    key_and_meter,
    quantise,
    rebarring,
    sections,
    transpose,
    velocities,
)
from ear.editing.cleaning import NoteTrouble
from ear.editing.edited import ALL, Edited, Selection
from ear.editing.key_chain import KeyOrder, key_chain
from ear.editing.lanes import lanes_as_text, name_lanes
from ear.editing.pickup import turn_pickup
from ear.editing.sticking import Sticking, stick
from ear.notes import Hand, Part
from ear.notes.loudness import LOUDNESS, PLAIN_SIGN
from ear.units import MAX_BPM, MIN_BPM
from ear.words.keys import describe_keys
from ear.words.places import describe_tick
from oido.bench.tools.base import GRIDS, HAND_CHOICES, Tool, value_field, whole_field
from oido.common.fields import offer
from oido.common.readers import reader_with
from oido.exercises.forms.fields import METERS, read_meter

ROWS_SHOWN = 12


class QuantiseTool(Tool):
    slug, title, button = "quantise", _("Quantise"), _("Quantise")

    step = value_field(_("Grid"), GRIDS, 240)
    strength = whole_field(_("Strength, %"), 0, 100, 100)
    swing = forms.FloatField(label=_("Swing, 1 to 4"), min_value=1, max_value=quantise.MAX_SWING, initial=1)
    off_by = whole_field(_("Only notes off by more than, ms"), 0, 500, 0, required=False)
    lengths = forms.BooleanField(label=_("Note lengths as well"), required=False)

    def fit(self, part: Part) -> None:
        self.fields["step"].initial = quantise.suggested_step(part, ALL)

    def foretold(self, part: Part, selected: Selection) -> dict[str, Any]:
        """Return what quantising would do: how many notes move, how far, and which are unclear."""
        moves = [m for m in self.moves(part, selected) if m.to_tick != m.from_tick]
        reader = reader_with(self.conventions)
        rows = [
            {
                "name": reader.sound(part, part.notes[m.note].pitch, tick=m.from_tick),
                "place": describe_tick(part, m.from_tick, reader),
                "ms": _ms(part, m.from_tick, m.to_tick),
                "beats": (m.to_tick - m.from_tick) / part.meters.bar_at(m.from_tick).meter.beat_ticks,
                "is_unclear": m.is_unclear,
            }
            for m in sorted(moves, key=lambda m: (not m.is_unclear, -abs(m.to_tick - m.from_tick)))
        ]
        return {
            "rows": rows[:ROWS_SHOWN],
            "more": max(0, len(rows) - ROWS_SHOWN),
            "count": len(rows),
            "unclear": sum(r["is_unclear"] for r in rows),
            "unclear_notes": [m.note for m in moves if m.is_unclear],
        }

    def moves(self, part: Part, selected: Selection) -> tuple[quantise.Move, ...]:
        """Return where notes would go, so that the page can show it beforehand."""
        c = self.cleaned_data
        return quantise.plan(
            part,
            selected,
            quantise.QuantiseGrid(step=c["step"], swing=c["swing"]),
            strength=c["strength"] / 100,
            lengths=c["lengths"],
            off_by_more_ms=c["off_by"] or 0,
        )

    def apply(self, part: Part, selected: Selection) -> Edited:
        return quantise.quantise(part, self.moves(part, selected))


def _ms(part: Part, from_tick: int, to_tick: int) -> float:
    """How much later, at the tempo there."""
    return 1000.0 * (part.tempos.second_at(to_tick) - part.tempos.second_at(from_tick))


class StrengthTool(Tool):
    slug, title = "velocity", _("Velocity")

    how = forms.ChoiceField(
        label=_("Change"),
        choices=(
            ("first_beats", _("first beats louder")), ("beats", _("all beats louder")),
            ("off_beats", _("off-beats louder")), ("even", _("all the same velocity")), ("sign", _("to a dynamic marking")),
            ("set", _("set all to")), ("ramp", _("crescendo or diminuendo to")), ("change", _("make louder by (negative: softer)")),
        ),
    )  # fmt: skip
    amount = whole_field(_("Amount or target"), -126, 127, 15, required=False)
    sign = forms.ChoiceField(
        label=_("Dynamic marking"),
        choices=[(name, name) for name in LOUDNESS],
        initial=PLAIN_SIGN,
        required=False,
    )
    to_sign = forms.ChoiceField(
        label=_("Then gradually to"),
        choices=[("", _("no change")), *((name, name) for name in LOUDNESS)],
        required=False,
    )

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if cleaned.get("how") not in ("sign", "even") and cleaned.get("amount") is None and not self.errors:
            self.add_error("amount", _("Enter an amount or a target."))
        return cleaned

    def apply(self, part: Part, selected: Selection) -> Edited:
        how, amount = self.cleaned_data["how"], self.cleaned_data["amount"]
        if how == "even":
            return velocities.even_out(part, selected)
        if how == "sign":
            c = self.cleaned_data
            return velocities.by_sign(part, selected, sign=c["sign"] or PLAIN_SIGN, to=c["to_sign"])
        if how == "set":
            return drawing.set_velocity(part, selected, velocity=amount)
        if how == "change":
            return drawing.change_velocity(part, selected, steps=amount)
        if how == "ramp":
            return velocities.ramp(part, selected, first=None, last=amount)
        return velocities.accent(part, selected, where=velocities.Accent(how), steps=amount)


class BarsTool(Tool):
    slug, title = "bars", pgettext_lazy("choice", "Bars")

    how = forms.ChoiceField(
        label=_("Action"),
        choices=(
            ("repeat", _("repeat after the picked bars")), ("copy", _("copy before bar")),
            ("insert", _("insert empty bars before")), ("delete", pgettext_lazy("choice", "delete")), ("only", _("keep only these")),
            ("split", _("split each bar in two")), ("join", _("merge bars in pairs")), ("lead_in", _("lead in with empty bars")),
            ("cue", _("lead in with a cue")), ("trim", _("trim to whole bars")),
            ("pickup", _("turn the first bar into a pick-up (bar 0), or back")),
        ),
    )  # fmt: skip
    first_bar = whole_field(_("First bar"), 0, bars.MAX_BARS, 1)
    last_bar = whole_field(_("Last bar"), 0, bars.MAX_BARS, 1)
    times = whole_field(pgettext_lazy("label", "Number"), 1, 64, 1)
    before = whole_field(_("Before bar"), 0, bars.MAX_BARS + 1, 1, required=False)
    ending_bars = whole_field(
        _("Bars in each ending"),
        0,
        bars.MAX_BARS,
        0,
        required=False,
        help_text=_("For a different ending the last time round. It starts as a copy, ready to change."),
    )

    def fit(self, part: Part) -> None:
        if 0 < len(self.selected) < len(part.notes):
            numbers = part.bar_of_note[sorted(self.selected)]
            first, last = int(min(numbers)), int(max(numbers))
            self.fields["first_bar"].initial = self.fields["before"].initial = first
            self.fields["last_bar"].initial = last

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        match c["how"]:
            case "repeat":
                return bars.repeat_bars(
                    part,
                    first=c["first_bar"],
                    last=c["last_bar"],
                    times=c["times"],
                    ending_bars=c["ending_bars"] or 0,
                )
            case "copy":
                return bars.copy_bars(
                    part,
                    first=c["first_bar"],
                    last=c["last_bar"],
                    before=part.first_bar if c["before"] is None else c["before"],
                    times=c["times"],
                )
            case "only":
                return bars.only_bars(part, first=c["first_bar"], last=c["last_bar"])
            case "split":
                return rebarring.split_bars(part, first=c["first_bar"], last=c["last_bar"])
            case "join":
                return rebarring.join_bars(part, first=c["first_bar"], last=c["last_bar"])
            case "insert":
                return bars.insert_bars(
                    part, before=c["first_bar"] if c["before"] is None else c["before"], count=c["times"]
                )
            case "delete":
                return bars.delete_bars(part, first=c["first_bar"], last=c["last_bar"])
            case "pickup":
                return turn_pickup(part)
            case "trim":
                return bars.trim_to_bars(part)
            case how:
                return bars.lead_in(part, bars=c["times"], with_cue=how == "cue")


class KeyTool(Tool):
    slug, title, needs = "key", _("Transpose"), "has_key"

    to_key = forms.ChoiceField(label=_("To the key"), required=False)
    semitones = whole_field(_("Or by semitones (− down)"), -48, 48, 12)

    def fit(self, part: Part) -> None:
        offer(
            self,
            "to_key",
            [
                ("", _("by semitones instead")),
                *((str(f), describe_keys(f, reader_with(self.conventions))) for f in range(-7, 8)),
            ],
        )

    def apply(self, part: Part, selected: Selection) -> Edited:
        if self.cleaned_data["to_key"]:
            return transpose.to_key(part, fifths=int(self.cleaned_data["to_key"]))
        return transpose.transpose(part, selected, semitones=self.cleaned_data["semitones"])


class SignatureTool(Tool):
    """Key and meter from a bar on."""

    slug, title, button = "signature", _("Key and time signature"), _("Set")

    bar = whole_field(_("First bar"), 0, bars.MAX_BARS, 1)
    key = forms.ChoiceField(label=pgettext_lazy("label", "Key"), required=False)
    meter = forms.ChoiceField(
        label=_("Time signature, to the end"),
        required=False,
        choices=[("", _("unchanged")), *((m, m) for m in METERS)],
    )

    def fit(self, part: Part) -> None:
        if not part.instrument.has_key:
            del self.fields["key"]
        else:
            keys = ((str(f), describe_keys(f, reader_with(self.conventions))) for f in range(-7, 8))
            offer(self, "key", [("", _("unchanged")), *keys])
        if 0 < len(self.selected) < len(part.notes):
            self.fields["bar"].initial = int(part.bar_of_note[min(self.selected)])

    def apply(self, part: Part, selected: Selection) -> Edited:
        c, made = self.cleaned_data, part
        if c.get("key"):
            made = key_and_meter.set_key(made, bar=c["bar"], fifths=int(c["key"]))
        if c["meter"]:
            made = key_and_meter.set_meter(made, bar=c["bar"], meter=read_meter(c["meter"])).part
        return Edited(part=made, selected=selected)


class ChainTool(Tool):
    slug, title, needs = "chain", _("Key chain"), "has_key"
    button = _("Repeat in other keys")

    order = forms.ChoiceField(
        label=pgettext_lazy("label", "Order"),
        choices=(
            (KeyOrder.FIFTHS.value, _("by fifths")), (KeyOrder.UP.value, _("up by semitones")),
            (KeyOrder.DOWN.value, _("down by semitones")),
        ),
    )  # fmt: skip
    gap = whole_field(_("Bars of rest between keys"), 0, 4, 1)
    cue = forms.BooleanField(label=_("With the next key’s first note as a cue"), required=False)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        chain = key_chain(part, order=KeyOrder(c["order"]), gap_bars=c["gap"], with_cue=c["cue"])
        return Edited(part=chain, selected=ALL)


class HandsTool(Tool):
    slug, title, needs = "hands", _("Hands and fingers"), "has_hands"

    how = forms.ChoiceField(
        label=_("Assign to"),
        choices=(
            *HAND_CHOICES,
            ("split", _("both, split at middle C")),
            ("finger", _("one finger")),
            ("propose", _("proposed fingering")),
            ("agree", _("accept the proposed fingering")),
        ),
    )
    finger = whole_field(_("Finger, 0 for none"), 0, 5, 0)

    def apply(self, part: Part, selected: Selection) -> Edited:
        how = self.cleaned_data["how"]
        if how == "split":
            return hands.split_hands(part, selected, at_pitch=60)
        if how == "propose":
            return hands.propose_fingers(part, selected)
        if how == "agree":
            return hands.agree_to_fingers(part, selected)
        if how == "finger":
            return drawing.set_finger(part, selected, finger=self.cleaned_data["finger"] or None)
        return drawing.set_hand(part, selected, hand=Hand(how))


class StickingTool(Tool):
    """R and L over the strokes of a drum part."""

    slug, title, button, needs = "sticking", _("Stickings"), _("Write stickings"), "has_lanes"

    pattern = forms.ChoiceField(label=_("Pattern"), choices=[(one.value, one.value) for one in Sticking])
    left_first = forms.BooleanField(label=_("Left hand first"), required=False)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        return stick(part, selected, pattern=Sticking(c["pattern"]), left_first=c["left_first"])


class LanesTool(Tool):
    """Lanes of a drum part by names and in an order of its own."""

    slug, title, button = "lanes", _("Lanes"), _("Set")
    needs = "has_lanes"

    lanes = forms.CharField(
        label=_("Lanes, from the top"), required=False, max_length=600, widget=forms.Textarea(attrs={"rows": 6}),
        help_text=_("One lane per line, in your order. For a name of your own, write for example “kick = bass drum”."),
    )  # fmt: skip

    def fit(self, part: Part) -> None:
        self.fields["lanes"].initial = lanes_as_text(part)

    def apply(self, part: Part, selected: Selection) -> Edited:
        return Edited(part=name_lanes(part, self.cleaned_data["lanes"]), selected=selected)


class SectionTool(Tool):
    """A section with a name and a tempo of its own."""

    slug, title, button = "section", _("Sections"), _("Set")

    bar = whole_field(_("First bar"), 0, bars.MAX_BARS, 1)
    name = forms.CharField(
        label=pgettext_lazy("label", "Name"), required=False, max_length=sections.MAX_NAME_LENGTH
    )
    bpm = forms.FloatField(
        label=pgettext_lazy("label", "Tempo"), required=False, min_value=MIN_BPM, max_value=MAX_BPM,
        help_text=_("Crotchets per minute, up to the next section. Leave empty for no change."),
    )  # fmt: skip
    how = forms.ChoiceField(
        label=_("Action"),
        choices=(("set", _("begin a section")), ("remove", _("remove the section"))),
    )

    def fit(self, part: Part) -> None:
        named = {section.name for section in part.sections}
        self.fields["name"].initial = next((letter for letter in ascii_uppercase if letter not in named), "")
        if 0 < len(self.selected) < len(part.notes):
            self.fields["bar"].initial = int(part.bar_of_note[min(self.selected)])

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        if c["how"] == "remove":
            made = sections.remove_section(part, bar=c["bar"])
        else:
            made = sections.set_section(part, bar=c["bar"], name=c["name"], bpm=c["bpm"])
        return Edited(part=made, selected=selected)


class JoinTool(Tool):
    """Another exercise's part behind this one."""

    slug, title, button = "join", _("Append an exercise"), _("Append")
    asks_others = True

    other = forms.ChoiceField(label=_("Exercise"))

    def fit(self, part: Part) -> None:
        offer(self, "other", [(key, name) for key, (name, _part) in self.others.items()])

    def apply(self, part: Part, selected: Selection) -> Edited:
        _name, read = self.others[self.cleaned_data["other"]]
        return Edited(part=bars.join(part, read()), selected=ALL)


MENDED = (
    (NoteTrouble.DOUBLE.value, _("delete the weaker of two notes struck at once")),
    (NoteTrouble.TINY.value, _("delete notes that are too short and soft")),
    (NoteTrouble.SLIP.value, _("delete neighbouring keys caught by accident")),
    (NoteTrouble.OVERLAP.value, _("end a note where its key is struck again")),
    (NoteTrouble.OFF_GRID.value, _("move notes to the nearest line of the grid")),
)


class CleanTool(Tool):
    """What looks wrong is picked first ("Pick notes" shows it); mended is what is picked, or all."""

    slug, title, button = "clean", _("Clean"), _("Clean up")

    mend = forms.MultipleChoiceField(
        label=_("What to clean up"), choices=MENDED, initial=[NoteTrouble.DOUBLE.value, NoteTrouble.TINY.value],
        widget=forms.CheckboxSelectMultiple,
        error_messages={"required": _("Choose what to clean up.")},
    )  # fmt: skip

    def apply(self, part: Part, selected: Selection) -> Edited:
        return cleaning.clean(part, selected, [NoteTrouble(name) for name in self.cleaned_data["mend"]])
