"""What the grid's template says of rows and cells; rows of music of which only the bars are known yet."""

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from ear.conventions import Conventions
from ear.editing.step_grid import CellContent, GridCell, GridRow, StepGrid
from ear.notes import Kind, Part
from oido.bench.page import Drawing, RowOnPage
from oido.common.templatetags.oido import px
from oido.common.templatetags.shapes import bare_bars

register = template.Library()
WEIGHT_STEPS = 8
OOB = format_html(' hx-swap-oob="{}"', "true")


@register.simple_tag
def row_name(part: Part, row: GridRow, conventions: Conventions) -> str:
    """A lane, or a pitch as the school names it."""
    if part.instrument.has_lanes:
        return _(part.lane_name(row.pitch))
    name_fifth = next((f for n, f in zip(part.notes, part.names, strict=True) if n.pitch == row.pitch), None)
    return conventions.pitch(row.pitch, fifths=part.fifths, name_fifth=name_fifth)


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
    if cell.state is CellContent.BEGINS:
        return _("%(place)s: velocity %(velocity)s") % {"place": place, "velocity": cell.velocity}
    return _("%(place)s: held") % {"place": place} if cell.state is CellContent.HELD else place


@register.simple_tag
def bare_row(at: RowOnPage, drawing: Drawing, kind: Kind, is_alone: bool) -> SafeString:
    """A row whose notes come later, written by hand: a long page has hundreds. `is_alone`: sent to take another's place."""
    return format_html(
        '<div class="bench-row" id="row-{k}" data-first="{first}" data-late{oob}><svg class="page-view page-{kind} row-of-bars" '
        'viewBox="0 0 {width} {height}" data-row="{k}">{bars}</svg></div>',
        k=at.box.index, first=at.first_note, oob=OOB if is_alone else "", kind=kind.value, width=px(drawing.width),
        height=px(at.height), bars=bare_bars(at.box, at.height),
    )  # fmt: skip
