"""Tools that a pointer works: dragging notes, drawing strengths, turning cells of the grid."""

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.editing import dragging, drawing, step_grid
from ear.editing.edited import Edited, Selection
from ear.notes import Part
from ear.units import MAX_PITCH, MAX_VELOCITY
from oido.bench.tools.base import HAND_CHOICES, Tool, hand_named, value_field, whole_field
from oido.bench.tools.single import note_numbers
from oido.common.problems import PageProblem

MAX_TICKS = 400 * 8 * 1920


class DragTool(Tool):
    """Notes dragged: those that are picked, or the one under the pointer if it is not among them."""

    slug, title = "drag", _("Drag")

    note = forms.IntegerField(min_value=0)
    ticks = whole_field("", -MAX_TICKS, MAX_TICKS, 0)
    steps = whole_field("", -70, 70, 0)
    longer = whole_field("", -MAX_TICKS, MAX_TICKS, 0)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        if c["note"] >= len(part.notes):
            return Edited(part=part, selected=selected)
        moved = selected if c["note"] in selected else frozenset({c["note"]})
        if c["longer"]:
            return drawing.lengthen(part, moved, ticks=c["longer"])
        return dragging.drag(part, moved, ticks=c["ticks"], steps=c["steps"])


class WeighTool(Tool):
    """Strengths drawn in the Weight strip: “12:90 13:84”, notes by index with their strength."""

    slug, title = "weigh", _("Draw velocity")

    weights = forms.CharField(max_length=400_000)

    def apply(self, part: Part, selected: Selection) -> Edited:
        wanted: dict[int, int] = {}
        for pair in self.cleaned_data["weights"].split():
            note, _colon, velocity = pair.partition(":")
            if not velocity.isdecimal():
                raise PageProblem(_("The velocities could not be read. Draw them again."))
            for number in note_numbers(note, part):
                wanted[number] = min(MAX_VELOCITY, int(velocity))
        return Edited(part=dragging.weigh(part, wanted).part, selected=selected)


class CellTool(Tool):
    """One cell of the grid: a note put in or taken out, made stronger or softer, held on or not."""

    slug, title = "cell", _("Grid")

    how = forms.ChoiceField(choices=(("turn", ""), ("weigh", ""), ("stretch", "")))
    tick = whole_field("", 0, MAX_TICKS)
    pitch = whole_field("", 0, MAX_PITCH)
    step = value_field("")
    value = value_field("")
    velocity = whole_field("", 1, MAX_VELOCITY, 80)
    steps = whole_field("", -64, 64, 0)
    hand = forms.ChoiceField(choices=(("", ""), *HAND_CHOICES), required=False)

    def apply(self, part: Part, selected: Selection) -> Edited:
        c = self.cleaned_data
        cell = {"tick": c["tick"], "step_ticks": c["step"], "pitch": c["pitch"]}
        match c["how"]:
            case "weigh":
                return step_grid.strengthen(part, **cell, velocity=c["velocity"])
            case "stretch":
                return step_grid.stretch(part, **cell, steps=c["steps"])
            case _:
                return step_grid.turn(
                    part, **cell, length_ticks=c["value"], velocity=c["velocity"], hand=hand_named(c["hand"])
                )
