"""The tools of the Bench: a form each, which says what the core is to do."""

from typing import Any, ClassVar

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.drawing.placing import place_at
from ear.editing import bars, cleaning, drawing, hands, lengths, quantise, steps, transpose, velocities
from ear.editing.edited import ALL, Edited, Selection
from ear.editing.picking import next_note, pick
from ear.errors import ValueOutOfRange
from ear.measuring.grid import GRID_STEPS
from ear.notes import STANDARD_KIT, Hand, Kind, Note, Part
from ear.patterns.key_chain import KeyOrder, key_chain
from oido.exercises.pages import target_page

VALUES = (
    (1920, _("semibreve")),
    (1440, _("dotted minim")),
    (960, _("minim")),
    (720, _("dotted crotchet")),
    (480, _("crotchet")),
    (360, _("dotted quaver")),
    (240, _("quaver")),
    (160, _("quaver triplet")),
    (120, _("semiquaver")),
    (80, _("semiquaver triplet")),
    (60, _("demisemiquaver")),
)
"""Note values in ticks, by their British names."""
GRIDS = tuple((ticks, name) for ticks, name in VALUES if ticks in GRID_STEPS)
HAND_CHOICES = ((Hand.RIGHT.value, _("right hand")), (Hand.LEFT.value, _("left hand")))
BOTH = frozenset(Kind)
KEYBOARD, DRUMS = frozenset({Kind.KEYBOARD}), frozenset({Kind.DRUMS})


def _whole(label: Any, least: int, most: int, initial: int | None = None, **more: Any) -> forms.IntegerField:
    return forms.IntegerField(label=label, min_value=least, max_value=most, initial=initial, **more)


def _value(label: Any, choices: Any = VALUES, initial: int = 480) -> forms.TypedChoiceField:
    return forms.TypedChoiceField(label=label, choices=choices, coerce=int, initial=initial)


def _hand(value: str) -> Hand | None:
    return Hand(value) if value else None


class Tool(forms.Form):
    """A tool is filled in, checked, and made to work on the part and the notes that are picked.

    `apply` may raise any EarError: the page shows it beside the tool.
    """

    slug: ClassVar[str]
    title: ClassVar[Any]
    button: ClassVar[Any] = pgettext_lazy("use a tool", "Do it")
    kinds: ClassVar[frozenset[Kind]] = BOTH

    def __init__(self, *args: Any, part: Part, **more: Any) -> None:
        super().__init__(*args, auto_id=f"{self.slug}-%s", **more)
        self.part = part
        self.fit(part)

    def fit(self, part: Part) -> None:
        """Set limits and starting values by the part."""

    def apply(self, part: Part, selected: Selection) -> Edited:
        raise NotImplementedError

    def after(self, part: Part) -> "Tool":
        """The tool as it lies there once it has been used: filled in as before."""
        return self


class PickTool(Tool):
    slug, title, button = "pick", _("Pick notes"), _("Pick")

    first_bar = _whole(_("from bar"), 1, bars.BARS_MOST, 1)
    last_bar = _whole(_("to bar"), 1, bars.BARS_MOST)
    of = forms.ChoiceField(label=_("of"), required=False)

    def fit(self, part: Part) -> None:
        self.fields["last_bar"].initial = len(part.bars)
        choices: list[tuple[str, Any]] = [("", _("all"))]
        if part.kind is Kind.KEYBOARD:
            choices += HAND_CHOICES
        else:
            choices += [
                (name, name) for name in sorted({STANDARD_KIT.lane(n.pitch).name for n in part.notes})
            ]
        self.fields["of"].choices = choices

    def apply(self, part: Part, selected: Selection) -> Edited:
        c, is_drums = self.cleaned_data, part.kind is Kind.DRUMS
        found = pick(
            part,
            first_bar=c["first_bar"],
            last_bar=c["last_bar"],
            hand=None if is_drums else _hand(c["of"]),
            lane=(c["of"] or None) if is_drums else None,
        )
        return Edited(part=part, selected=found)


class TouchTool(Tool):
    """One note by index, or the next one: what a click and the arrow keys do."""

    slug, title = "touch", _("Pick a note")

    note = forms.IntegerField(required=False, min_value=0)
    way = forms.ChoiceField(choices=(("", ""), ("next", ""), ("before", ""), ("none", "")), required=False)
    more = forms.BooleanField(required=False)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        if c["way"]:
            found = ALL if c["way"] == "none" else next_note(part, selected, forward=c["way"] == "next")
        elif c["note"] is None or c["note"] >= len(part.notes):
            found = selected
        elif c["more"]:
            found = selected ^ {c["note"]}
        else:
            found = ALL if selected == {c["note"]} else frozenset({c["note"]})
        return Edited(part=part, selected=found)


class PutTool(Tool):
    """One note where the page was clicked twice: the server reads the place off the drawing."""

    slug, title = "put", _("Put a note")

    x = forms.FloatField()
    y = forms.FloatField()
    value = _value("")
    velocity = _whole("", 1, 127)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        place = place_at(part, target_page(part), x=c["x"], y=c["y"], grid_ticks=c["value"])
        if place is None:
            raise ValueOutOfRange("there is no line for a note")
        is_drums = part.kind is Kind.DRUMS
        note = Note(
            onset_tick=place.tick, length_tick=steps.DRUM_LENGTH if is_drums else c["value"], pitch=place.pitch,
            velocity=c["velocity"], hand=place.hand,
        )  # fmt: skip
        return drawing.add(part, note)


class StepsTool(Tool):
    slug, title, button = "steps", _("Write steps"), _("Write")

    text = forms.CharField(label=_("notes"), max_length=4000)
    bar = _whole(_("in bar"), 1, bars.BARS_MOST, 1)
    beat = forms.DecimalField(label=_("on beat"), min_value=1, max_value=33, initial=1, decimal_places=3)
    value = _value(_("each a"))
    velocity = _whole(_("strength"), 1, 127, 80)
    hand = forms.ChoiceField(label=_("for the"), choices=HAND_CHOICES, required=False)

    def fit(self, part: Part) -> None:
        if part.kind is Kind.DRUMS:
            del self.fields["hand"]
            self.fields["value"].initial = 240
            self.fields["text"].help_text = _(
                "Lanes: kick+hat hat snare+hat hat; a rest is -, open.hat is one lane."
            )
        else:
            self.fields["text"].help_text = _(
                "C4 D4 E4+G4; without octave the nearest; a rest is -, _ holds on."
            )

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        bar = part.meters.bar(c["bar"])
        into = round((float(c["beat"]) - 1.0) * bar.meter.beat_ticks)
        if into >= bar.meter.bar_ticks:
            raise ValueOutOfRange(f"bar {bar.number} has {bar.meter.beats} beats")
        written = steps.write_steps(
            part, c["text"], at_tick=bar.start_tick + into, value_ticks=c["value"], velocity=c["velocity"],
            hand=_hand(c.get("hand", "")),
        )  # fmt: skip
        if len(written.edited.part.bars) > bars.BARS_MOST:
            raise ValueOutOfRange(f"a part has up to {bars.BARS_MOST} bars")
        self.next_tick = written.next_tick
        return written.edited

    def after(self, part: Part) -> Tool:
        """Ready for the next steps, behind the last ones."""
        bar = part.meters.bar_at(self.next_tick)
        beat = (self.next_tick - bar.start_tick) / bar.meter.beat_ticks + 1
        kept = {name: self.cleaned_data.get(name) for name in ("value", "velocity", "hand")}
        return StepsTool(part=part, initial={**kept, "bar": bar.number, "beat": f"{beat:g}"})


class MoveTool(Tool):
    slug, title, button = "move", _("Move"), _("Move")

    value = _value(_("by a"), (*VALUES, (1, _("tick"))), 240)
    times = _whole(_("times (− earlier)"), -64, 64, 0)
    semitones = _whole(_("semitones (− down)"), -48, 48, 0)

    def fit(self, part: Part) -> None:
        if part.kind is Kind.DRUMS:
            del self.fields["semitones"]

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        return drawing.move(part, selected, ticks=c["value"] * c["times"], semitones=c.get("semitones") or 0)


class LengthTool(Tool):
    slug, title, kinds = "length", _("Length"), KEYBOARD

    how = forms.ChoiceField(
        label=_("make them"),
        choices=(
            ("value", _("as long as the value")), ("legato", _("last until the next note")),
            ("half", _("half as long")), ("longer", _("longer by the value")), ("shorter", _("shorter by the value")),
        ),
    )  # fmt: skip
    value = _value(_("value"))

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


class QuantiseTool(Tool):
    slug, title, button = "quantise", _("Quantise"), _("Quantise")

    step = _value(_("grid"), GRIDS, 240)
    strength = _whole(_("strength, %"), 0, 100, 100)
    swing = forms.FloatField(label=_("swing, 1 to 4"), min_value=1, max_value=quantise.SWING_MOST, initial=1)
    lengths = forms.BooleanField(label=_("lengths, too"), required=False)

    def fit(self, part: Part) -> None:
        self.fields["step"].initial = quantise.suggested_step(part, ALL)

    def moves(self, part: Part, selected: Selection) -> tuple[quantise.Move, ...]:
        """Where notes would go: what the page shows before anything is done."""
        c = self.cleaned_data
        return quantise.plan(
            part,
            selected,
            quantise.QuantiseGrid(step=c["step"], swing=c["swing"]),
            strength=c["strength"] / 100,
            lengths=c["lengths"],
        )

    def apply(self, part: Part, selected: Selection) -> Edited:
        return quantise.quantise(part, self.moves(part, selected))


class StrengthTool(Tool):
    slug, title = "strength", _("Strength")

    how = forms.ChoiceField(
        label=_("make"),
        choices=(
            ("first_beats", _("first beats stronger")), ("beats", _("all beats stronger")),
            ("off_beats", _("off-beats stronger")), ("even", _("all alike")),
            ("set", _("all just so strong")), ("ramp", _("rise or fall to")),
        ),
    )  # fmt: skip
    amount = _whole(_("by, or to"), -126, 127, 15)

    def apply(self, part: Part, selected: Selection) -> Edited:
        how, amount = self.cleaned_data["how"], self.cleaned_data["amount"]
        if how == "even":
            return velocities.even_out(part, selected)
        if how == "set":
            return drawing.set_velocity(part, selected, velocity=amount)
        if how == "ramp":
            first = min(selected, default=0)
            start = part.notes[first].velocity if part.notes else amount
            return velocities.ramp(part, selected, first=start, last=amount)
        return velocities.accent(part, selected, where=velocities.Accent(how), steps=amount)


class BarsTool(Tool):
    slug, title = "bars", _("Bars")

    how = forms.ChoiceField(
        label=_("do what"),
        choices=(
            ("repeat", _("play again behind them")), ("insert", _("put empty bars before")),
            ("delete", _("take out")), ("lead_in", _("lead in with so many bars")),
            ("cue", _("lead in with a cue")), ("trim", _("trim to whole bars")),
        ),
    )  # fmt: skip
    first_bar = _whole(_("from bar"), 1, bars.BARS_MOST, 1)
    last_bar = _whole(_("to bar"), 1, bars.BARS_MOST, 1)
    times = _whole(_("how many"), 1, 64, 1)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        match c["how"]:
            case "repeat":
                return bars.repeat_bars(part, first=c["first_bar"], last=c["last_bar"], times=c["times"])
            case "insert":
                return bars.insert_bars(part, before=c["first_bar"], count=c["times"])
            case "delete":
                return bars.delete_bars(part, first=c["first_bar"], last=c["last_bar"])
            case "trim":
                return bars.trim_to_bars(part)
            case how:
                return bars.lead_in(part, bars=c["times"], with_cue=how == "cue")


class KeyTool(Tool):
    slug, title, kinds = "key", _("Transpose"), KEYBOARD

    semitones = _whole(_("semitones (− down)"), -48, 48, 12)

    def apply(self, part: Part, selected: Selection) -> Edited:
        return transpose.transpose(part, selected, semitones=self.cleaned_data["semitones"])


class ChainTool(Tool):
    slug, title, kinds = "chain", _("Key chain"), KEYBOARD
    button = _("Carry through the keys")

    order = forms.ChoiceField(
        label=_("order"),
        choices=(
            (KeyOrder.FIFTHS.value, _("by fifths")), (KeyOrder.UP.value, _("up by semitones")),
            (KeyOrder.DOWN.value, _("down by semitones")),
        ),
    )  # fmt: skip
    gap = _whole(_("bars of rest between"), 0, 4, 1)
    cue = forms.BooleanField(label=_("with the next key's first note as a cue"), required=False)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        chain = key_chain(part, order=KeyOrder(c["order"]), gap_bars=c["gap"], with_cue=c["cue"])
        return Edited(part=chain, selected=ALL)


class HandsTool(Tool):
    slug, title, kinds = "hands", _("Hands and fingers"), KEYBOARD

    how = forms.ChoiceField(
        label=_("give them to"),
        choices=(*HAND_CHOICES, ("split", _("both, split at middle C")), ("finger", _("the finger"))),
    )
    finger = _whole(_("finger, 0 for none"), 0, 5, 0)

    def apply(self, part: Part, selected: Selection) -> Edited:
        how = self.cleaned_data["how"]
        if how == "split":
            return hands.split_hands(part, selected, at_pitch=60)
        if how == "finger":
            return drawing.set_finger(part, selected, finger=self.cleaned_data["finger"] or None)
        return drawing.set_hand(part, selected, hand=Hand(how))


class CleanTool(Tool):
    slug, title, button = "clean", _("Clean"), _("Take out doubles and tiny notes")

    def apply(self, part: Part, selected: Selection) -> Edited:
        return cleaning.clean(part, selected)


class DeleteTool(Tool):
    slug, title, button = "delete", _("Delete"), _("Delete what is picked")

    def apply(self, part: Part, selected: Selection) -> Edited:
        return drawing.delete(part, selected)


TOOLS: tuple[type[Tool], ...] = (
    StepsTool, PickTool, MoveTool, LengthTool, QuantiseTool, StrengthTool, BarsTool, KeyTool, ChainTool,
    HandsTool, CleanTool, DeleteTool,
)  # fmt: skip
BY_SLUG: dict[str, type[Tool]] = {tool.slug: tool for tool in (*TOOLS, TouchTool, PutTool)}
SEEN_FIRST = frozenset({"steps", "pick"})
"""Tools that lie open; the others open when they are wanted."""


def tools_for(part: Part) -> list[Tool]:
    return [tool(part=part) for tool in TOOLS if part.kind in tool.kinds]
