"""What stands in its hundreds on a page of music, written by hand: Django's templates take ten times as long
over a thousand notes. All numbers come from the core's drawing; only words are escaped."""

from collections.abc import Iterable, Iterator, Sequence

from django import template
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from ear.drawing.boxes import NoteBox, PageRow, PageView, Sign
from ear.drawing.crowding import LABELS_LINE, clear_of
from ear.drawing.page import MARGIN_TOP, OVER_STAFF
from ear.drawing.rows import BarBox, RowBox
from ear.drawing.strips import DriftMark, WeightBar
from ear.labels.chosen import Label
from oido.common.templatetags.oido import px

register = template.Library()
SYMBOL = "scale(.036)"
HEAD_HALF = 5.6
NEW_MARK_X = 4.0
CROSSED = frozenset({"extra", "abandoned", "spare"})
"""Notes that stand where nothing is written."""

HANDLE_WIDTH = 32


@register.simple_tag
def ledgers(row: PageRow) -> SafeString:
    return mark_safe("".join(_ledgers(row)))


def _ledgers(row: PageRow) -> Iterator[str]:
    for note in row.targets:
        reach = "18" if note.head else px(note.width + 16)
        for y in note.ledgers:
            yield f'<path d="M{px(note.x - 9)} {px(y)}h{reach}"/>'
    for note in row.takes:
        for y in note.ledgers:
            yield f'<path d="M{px(note.x - 7)} {px(y)}h{px(note.width + 14)}"/>'


@register.simple_tag
def signs(row: PageRow) -> SafeString:
    """Clefs, keys and meters."""
    at_left = (sign for staff in row.staves for sign in (staff.clef, *staff.key))
    return mark_safe("".join(map(_sign, (*at_left, *row.meters))))


@register.simple_tag
def accidental(note: NoteBox) -> SafeString:
    return mark_safe("" if note.accidental is None else f'<g class="accidental">{_sign(note.accidental)}</g>')


def _sign(sign: Sign) -> str:
    return f'<use href="#symbol-{sign.glyph}" transform="translate({px(sign.x)} {px(sign.y)}) {SYMBOL}"/>'


def _head(note: NoteBox, attributes: str) -> str:
    place = f"translate({px(note.x - HEAD_HALF)} {px(note.y)}) {SYMBOL}"
    return f'<use {attributes} href="#symbol-head-{note.head}" transform="{place}">{_title(note)}</use>'


def _bar(note: NoteBox, attributes: str) -> str:
    half, round_ = note.height / 2, px(note.height / 2 - 0.5)
    place = f'x="{px(note.x)}" y="{px(note.y - half)}" width="{px(note.width)}" height="{px(2 * half)}" rx="{round_}"'
    return f"<rect {attributes} {place}>{_title(note)}</rect>"


def _title(note: NoteBox) -> str:
    return f"<title>{escape(note.words)}</title>" if note.words else ""


def _faded(note: NoteBox) -> str:
    return " is-faded" if note.is_faded else ""


@register.simple_tag
def targets(row: PageRow, is_worked_on: bool = False) -> SafeString:
    """The part's notes; worked on, each with its pitch and strength, to be sounded."""
    return mark_safe("".join(_target(note, is_worked_on) for note in row.targets))


def _target(note: NoteBox, is_worked_on: bool) -> str:
    sounding = f' data-pitch="{note.pitch}" data-velocity="{note.velocity}"' if is_worked_on else ""
    accidental = f'<g class="accidental">{_sign(note.accidental)}</g>' if note.accidental else ""
    if note.head:
        shape = _head(
            note, f'id="{note.id}"{sounding} class="target head-{note.head} is-{note.state}{_faded(note)}"'
        )
    else:
        shape = _bar(
            note,
            f'id="{note.id}"{sounding} class="target is-{note.state}{_faded(note)}"',
        )
    if note.state == "new":
        shape += f'<path class="new-mark" d="M{px(note.x + NEW_MARK_X)} {px(note.y + 6)}v7m-3.5 -3.5h7"/>'
    return accidental + shape + _labels(note)


def _labels(note: NoteBox) -> str:
    return "".join(
        f'<text class="labels" x="{px(note.x + 2)}" y="{px(note.y - 7 - line * LABELS_LINE)}">{_words(labels)}</text>'
        for line, labels in enumerate(note.labels)
    )


def _words(labels: Sequence[Label]) -> str:
    return "".join(
        f'<tspan class="label-{label.kind.value}"{f" data-code={chr(34)}{label.code}{chr(34)}" if label.code else ""}>'
        f"{escape(label.text)} </tspan>"
        for label in labels
    )


@register.simple_tag
def takes(row: PageRow) -> SafeString:
    """What was played."""
    return mark_safe("".join(map(_take, row.takes)))


def _take(note: NoteBox) -> str:
    if note.state in CROSSED:
        cross = f"M{px(note.x - 3)} {px(note.y - 3)}l6 6m0 -6l-6 6"
        shape = f'<path id="{note.id}" class="cross is-{note.state}{_faded(note)}" d="{cross}">{_title(note)}</path>'
    else:
        attributes = (
            f'id="{note.id}" class="take is-{note.state}{_faded(note)}" fill-opacity="{px(note.depth)}"'
        )
        shape = _head(note, attributes) if note.head else _bar(note, attributes)
    if note.accidental:
        shape += f'<g class="accidental is-wrong">{_sign(note.accidental)}</g>'
    if note.join:
        x, y = note.join
        shape += f'<path class="join" d="M{px(note.x + 3)} {px(note.y)}L{px(x + 3)} {px(y)}"/>'
    return shape


@register.simple_tag
def drift_marks(row: PageRow) -> SafeString:
    marks = row.drift.marks if row.drift else ()
    return mark_safe("".join(map(_drift_mark, marks)))


def _drift_mark(mark: DriftMark) -> str:
    of = f'data-of="t{mark.target}"'
    if mark.state == "in_time":
        return f'<circle {of} class="in-time" cx="{px(mark.x)}" cy="{px(mark.y)}" r="2.6"/>'
    if mark.state == "beside":
        return f'<path {of} class="pennant beside" d="M{px(mark.x - 3)} {px(mark.y - 3)}h6m-6 6h6"/>'
    flag = "l-8 3.5l8 3.5" if mark.state == "early" else "l8 -3.5l-8 -3.5"
    return f'<path {of} class="pennant {mark.state}" d="M{px(mark.x)} {px(mark.line_y)}V{px(mark.y)}{flag}"/>'


@register.simple_tag
def weights(row: PageRow, is_worked_on: bool = False) -> SafeString:
    """Strengths: played as a bar, written as a tick; of a part that is worked on as bars to be drawn."""
    if row.weight is None:
        return SafeString()
    bottom = px(row.weight.bottom)
    return mark_safe("".join(_weight(bar, bottom, is_worked_on) for bar in row.weight.bars))


def _weight(bar: WeightBar, bottom: str, is_worked_on: bool) -> str:
    foot = f"M{px(bar.x)} {bottom}V"
    if is_worked_on:
        return f'<path class="weight-bar" data-weight="{bar.note}" d="{foot}{px(bar.written_y)}"/>'
    played = (
        ""
        if bar.played_y is None
        else f'<path class="played{f" is-{bar.state}" if bar.state else ""}" d="{foot}{px(bar.played_y)}"/>'
    )
    return f'{played}<path class="written" d="M{px(bar.x - 5)} {px(bar.written_y)}h10"/>'


@register.simple_tag
def lines(row: PageRow, left: float) -> SafeString:
    """Staff lines, beats and bar lines."""
    right, top, bottom, start = px(row.box.right), px(row.staff_top), px(row.staff_bottom), px(left)
    staff = "".join(f'<path d="M{start} {px(y)}H{right}"/>' for staff in row.staves for y in staff.lines)
    beats = "".join(f'<path d="M{px(x)} {top}V{bottom}"/>' for bar in row.bars for x in bar.beats)
    bars = "".join(
        f'<path d="M{x} {top}V{bottom}"/>' for x in (start, *(px(bar.line_x) for bar in row.bars), right)
    )
    return mark_safe(
        f'<g class="staff-lines">{staff}</g><g class="beats">{beats}</g><g class="bar-lines">{bars}</g>'
    )


@register.simple_tag
def bar_handles(page: PageView, row: PageRow) -> SafeString:
    """Each bar's number over its line: what is clicked to pick the bar."""
    at = [page.staff_left + HANDLE_WIDTH / 2, *(bar.x for bar in row.bars[1:])]
    return mark_safe("".join(_handle(row, bar.number, x) for bar, x in zip(row.bars, at, strict=True)))


def _handle(row: PageRow, number: int, x: float) -> str:
    left = x - HANDLE_WIDTH + 8
    y = clear_of(row.targets, left=left, right=x, y=row.staff_top - OVER_STAFF)
    return (
        f'<g class="bar-handle" data-pick-bar="{number}"><rect x="{px(left)}" y="{px(y - 16)}" '
        f'width="{HANDLE_WIDTH}" height="22"/><text class="bar-number" x="{px(x - 3)}" y="{px(y)}">{number}</text></g>'
    )


@register.simple_tag
def bar_places(row: PageRow) -> SafeString:
    """What is clicked to hear a bar, over everything else."""
    return mark_safe(_places(row.bars, row.staff_top - 8, row.staff_bottom + 8))


def _places(bars: Iterable[BarBox], top: float, bottom: float) -> str:
    y, height = px(top), px(bottom - top)
    return "".join(
        f'<rect class="bar-place" data-bar="{bar.number}" data-start-tick="{bar.start_tick}" '
        f'data-end-tick="{bar.end_tick}" data-beat-count="{len(bar.beats) + 1}" x="{px(bar.x)}" y="{y}" width="{px(bar.width)}" height="{height}"/>'
        for bar in bars
    )


def bare_bars(box: RowBox, height: float) -> SafeString:
    """What is in a row of which only the bars are known yet, `height` px high."""
    top, bottom = MARGIN_TOP, height - MARGIN_TOP
    lines = "".join(
        f'<path d="M{px(x)} {px(top)}V{px(bottom)}"/>' for x in (*(bar.line_x for bar in box.bars), box.right)
    )
    return mark_safe(f'<g class="bar-lines">{lines}</g>{_places(box.bars, top, bottom)}')
