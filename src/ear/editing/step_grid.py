"""Step entry on a grid: lanes or pitches by steps of time, cells that notes begin in or go on through."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ear.editing.edited import Edited, rebuilt
from ear.errors import ValueOutOfRange
from ear.labels.counting import syllable
from ear.notes import STANDARD_KIT, Hand, KitMap, Note, Part
from ear.notes.pitch import BLACK_KEYS
from ear.units import MAX_PITCH, MIN_PITCH

MIN_ROWS = 13
"""Pitches that a key grid shows at least: an octave."""
ROWS_BESIDE = 2
MAX_CELLS = 4000


class CellContent(StrEnum):
    """What a place of the grid holds."""

    EMPTY = "empty"
    BEGINS = "begins"
    HELD = "held"


@dataclass(frozen=True, slots=True, kw_only=True)
class GridCell:
    """A step of one row: what is there, how strong, and (by index) which note."""

    tick: int
    state: CellContent
    velocity: int = 0
    note: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class GridRow:
    """A lane of the kit, or a pitch."""

    pitch: int
    is_black: bool
    cells: tuple[GridCell, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class GridColumn:
    """A step of time."""

    tick: int
    bar: int
    count: str
    """What is counted there, empty between counts."""
    is_beat: bool
    is_bar: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class StepGrid:
    """Rows from the top of the kit or the highest pitch down; columns in time."""

    columns: tuple[GridColumn, ...]
    rows: tuple[GridRow, ...]
    step_ticks: int


def step_grid(
    part: Part,
    *,
    first_bar: int,
    last_bar: int,
    step_ticks: int,
    low: int | None = None,
    high: int | None = None,
    kit: KitMap = STANDARD_KIT,
) -> StepGrid:
    """Return the step grid of some bars.

    Steps are counted anew in each bar.

    A key grid reaches from `low` to `high`; left out, over the part's own pitches and a little more.
    Raises ValueOutOfRange for bars that the part has not, and for a grid too large to be worked with.
    """
    if not part.first_bar <= first_bar <= last_bar <= part.last_bar:
        raise ValueOutOfRange("bar_range_outside_part", count=part.last_bar, first=first_bar, last=last_bar)
    if step_ticks < 1:
        raise ValueOutOfRange("step_empty")
    bars = part.bars[first_bar - part.first_bar : last_bar + 1 - part.first_bar]
    columns = tuple(
        GridColumn(
            tick=bar.start_tick + into, bar=bar.number, count=syllable(bar.meter, into),
            is_beat=into % bar.meter.beat_ticks == 0, is_bar=into == 0,
        )
        for bar in bars
        for into in range(0, bar.meter.bar_ticks, step_ticks)
    )  # fmt: skip
    pitches = _lanes(part, kit) if part.instrument.has_lanes else _keys(part, low, high)
    if len(pitches) * len(columns) > MAX_CELLS:
        raise ValueOutOfRange("grid_too_large", count=len(pitches), count_2=len(columns))
    start, end = bars[0].start_tick, bars[-1].end_tick
    by_row: dict[int, list[tuple[int, Note]]] = {pitch: [] for pitch in pitches}
    for i, note in enumerate(part.notes):
        row = kit.fold(note.pitch) if part.instrument.has_lanes else note.pitch
        if row in by_row and note.onset_tick < end and note.end_tick > start:
            by_row[row].append((i, note))
    ends = [*(c.tick for c in columns[1:]), end]
    rows = tuple(
        GridRow(
            pitch=pitch,
            is_black=part.instrument.has_key and pitch % 12 in BLACK_KEYS,
            cells=tuple(
                _cell(column.tick, until, by_row[pitch], is_held=part.instrument.has_length)
                for column, until in zip(columns, ends, strict=True)
            ),
        )
        for pitch in pitches
    )
    return StepGrid(columns=columns, rows=rows, step_ticks=step_ticks)


def _cell(tick: int, until: int, notes: Sequence[tuple[int, Note]], *, is_held: bool) -> GridCell:
    for i, note in notes:
        if tick <= note.onset_tick < until:
            return GridCell(tick=tick, state=CellContent.BEGINS, velocity=note.velocity, note=i)
    for i, note in notes:
        if is_held and note.onset_tick < tick < note.end_tick:
            return GridCell(tick=tick, state=CellContent.HELD, velocity=note.velocity, note=i)
    return GridCell(tick=tick, state=CellContent.EMPTY)


def _lanes(part: Part, kit: KitMap) -> list[int]:
    lanes = [lane.pitches[0] for lane in sorted(kit.lanes, key=lambda lane: part.lane_place(lane.name))]
    others = sorted({kit.fold(n.pitch) for n in part.notes} - set(lanes))
    return [*lanes, *others]


def _keys(part: Part, low: int | None, high: int | None) -> list[int]:
    own = [n.pitch for n in part.notes] or [60, 72]
    bottom = min(own) - ROWS_BESIDE if low is None else low
    top = max(own) + ROWS_BESIDE if high is None else high
    if bottom > top:
        raise ValueOutOfRange("lowest_key_above_highest")
    top = max(top, bottom + MIN_ROWS - 1) if high is None else top
    return list(range(min(MAX_PITCH, top), max(MIN_PITCH, bottom) - 1, -1))


def turn(
    part: Part,
    *,
    tick: int,
    step_ticks: int,
    pitch: int,
    length_ticks: int,
    velocity: int,
    hand: Hand | None = None,
    kit: KitMap = STANDARD_KIT,
) -> Edited:
    """Add a note in a cell, or take out the one that begins there."""
    at = _beginning(part, tick, step_ticks, pitch, kit)
    if at is not None:
        return rebuilt(part, [(n, False) for i, n in enumerate(part.notes) if i != at])
    note = Note(
        onset_tick=tick, length_tick=part.instrument.written_ticks(length_ticks), pitch=pitch,
        velocity=velocity, hand=hand,
    )  # fmt: skip
    return rebuilt(part, [*((n, False) for n in part.notes), (note, True)])


def strengthen(
    part: Part, *, tick: int, step_ticks: int, pitch: int, velocity: int, kit: KitMap = STANDARD_KIT
) -> Edited:
    """Set the velocity of the note that begins in a cell; an empty cell stays empty."""
    at = _beginning(part, tick, step_ticks, pitch, kit)
    return rebuilt(
        part,
        [(replace(n, velocity=velocity), True) if i == at else (n, False) for i, n in enumerate(part.notes)],
    )


def stretch(
    part: Part, *, tick: int, step_ticks: int, pitch: int, steps: int, kit: KitMap = STANDARD_KIT
) -> Edited:
    """Lengthen the note that begins in a cell, or continues through it, by so many steps; shorten it if negative.

    This is its tie. At least one step stays.
    """
    at = _beginning(part, tick, step_ticks, pitch, kit)
    if at is None:
        at = next(
            (i for i, n in enumerate(part.notes) if n.pitch == pitch and n.onset_tick <= tick < n.end_tick),
            None,
        )
    return rebuilt(
        part,
        [
            (replace(n, length_tick=max(step_ticks, n.length_tick + steps * step_ticks)), True)
            if i == at
            else (n, False)
            for i, n in enumerate(part.notes)
        ],
    )


def _beginning(part: Part, tick: int, step_ticks: int, pitch: int, kit: KitMap) -> int | None:
    """The note that begins in a cell."""
    has_lanes = part.instrument.has_lanes
    for i, note in enumerate(part.notes):
        row = kit.fold(note.pitch) if has_lanes else note.pitch
        if row == pitch and tick <= note.onset_tick < tick + step_ticks:
            return i
    return None
