"""What the grid's template says of rows and cells."""

from django import template
from django.utils.translation import gettext as _

from ear.editing.step_grid import Cell, GridCell, GridRow, StepGrid
from ear.labels import Conventions
from ear.notes import Part

register = template.Library()
WEIGHT_STEPS = 8


@register.simple_tag
def row_name(part: Part, row: GridRow, conventions: Conventions) -> str:
    """A lane, or a pitch as the school names it."""
    if part.instrument.has_lanes:
        return part.lane_name(row.pitch)
    fifth = next((f for n, f in zip(part.notes, part.names, strict=True) if n.pitch == row.pitch), None)
    return conventions.pitch(row.pitch, fifths=part.fifths, fifth=fifth)


@register.filter
def weight_step(velocity: int) -> int:
    """1 to 8: how dark a cell is."""
    return min(WEIGHT_STEPS, velocity * WEIGHT_STEPS // 128 + 1)


@register.filter
def beat_class(grid: StepGrid, column: int) -> str:
    at = grid.columns[column]
    return " is-bar" if at.is_bar else " is-beat" if at.is_beat else ""


@register.simple_tag
def cell_words(grid: StepGrid, column: int, name: str, cell: GridCell) -> str:
    """A cell in words, for a screen reader."""
    at = grid.columns[column]
    place = _("%(name)s, bar %(bar)s, %(count)s") % {
        "name": name, "bar": at.bar, "count": at.count or _("step %(n)s") % {"n": column + 1},
    }  # fmt: skip
    if cell.state is Cell.BEGINS:
        return _("%(place)s: velocity %(velocity)s") % {"place": place, "velocity": cell.velocity}
    return _("%(place)s: held on") % {"place": place} if cell.state is Cell.HELD else place
