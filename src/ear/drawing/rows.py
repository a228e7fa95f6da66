"""Rows of bars that wrap: which bars stand in which row, and where a tick is.

All lengths on the page are in px of the drawing's own viewBox.
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

from ear.measuring.grid import grid_step
from ear.notes import Bar, Part, folded
from ear.units import TICKS_PER_QUARTER

PX_PER_GRID = {480: 44.0, 240: 27.0, 160: 20.0, 120: 16.5, 80: 12.0}
"""Least width of a grid step: what keeps neighbours apart to the eye."""
PX_PER_FINE_GRID = 9.0
METER_GAP = 32.0
"""Room for the signs of a new meter within a row, px."""
BAR_LINE_SLACK_TICKS = 60
"""A demisemiquaver: a foot or hand that moves so near to a bar line means the bar line."""
BARS_A_ROW = (32, 24, 16, 12, 8, 6, 4, 3, 2, 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class BarBox:
    """A bar in its row."""

    number: int
    line_x: float
    """Where its bar line is; new meter signs stand between it and `x`."""
    x: float
    width: float
    start_tick: int
    end_tick: int
    beats: tuple[float, ...]
    """x of each beat after the first."""
    meter: tuple[int, int] | None
    """To be written before this bar, where it is new."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RowBox:
    """A row's bars; ticks from `start_tick` up to `end_tick` are drawn in it."""

    index: int
    bars: tuple[BarBox, ...]
    start_tick: int
    end_tick: int

    def x(self, tick: float, *, is_end: bool = False) -> float:
        """Return the x, in px, of a tick, which may be a little outside the row.

        If `is_end`, the x is before the signs that stand at the next bar line.
        """
        box = self.bars[0]
        for bar in self.bars:
            if tick > bar.start_tick or (tick == bar.start_tick and not is_end):
                box = bar
        return box.x + (tick - box.start_tick) / (box.end_tick - box.start_tick) * box.width

    @property
    def right(self) -> float:
        """px from the left to where the last bar ends."""
        return self.bars[-1].x + self.bars[-1].width


def bars_a_row(part: Part, *, width: float) -> int:
    """Return how many bars of the first metre fit a row, as one of BARS_A_ROW."""
    step = grid_step(part)
    per_quarter = PX_PER_GRID.get(step, PX_PER_FINE_GRID) * TICKS_PER_QUARTER / step
    fit = width / (part.meters.first.bar_quarters * per_quarter)
    return next((n for n in BARS_A_ROW if n <= fit), 1)


def rows_of(part: Part, *, left: float, right: float) -> list[RowBox]:
    """Break a part's bars into rows between two x, and return at least one row.

    A change of key begins a new row.
    """
    bars = part.bars
    per_row = min(bars_a_row(part, width=right - left), max(1, len(bars)))
    capacity = per_row * part.meters.first.bar_ticks
    groups: list[list[Bar]] = [[]]
    keys = [part.fifths_at(bar.start_tick) for bar in bars] if part.sections else [part.fifths] * len(bars)
    for bar, key in zip(bars, keys, strict=True):
        held = sum(b.meter.bar_ticks for b in groups[-1])
        is_new_key = bool(groups[-1]) and key != keys[groups[-1][-1].number - part.first_bar]
        if groups[-1] and (is_new_key or held + bar.meter.bar_ticks > capacity):
            groups.append([])
        groups[-1].append(bar)
    rows = []
    written = None
    for index, group in enumerate(groups):
        boxes = []
        changes = sum(after.meter != before.meter for before, after in pairwise(group))
        per_tick = (right - left - changes * METER_GAP) / capacity
        line_x = left
        for bar in group:
            meter = (bar.meter.numerator, bar.meter.denominator)
            x = line_x + (METER_GAP if bar is not group[0] and meter != written else 0.0)
            beat = bar.meter.beat_ticks
            boxes.append(
                BarBox(
                    number=bar.number,
                    line_x=line_x,
                    x=x,
                    width=bar.meter.bar_ticks * per_tick,
                    start_tick=bar.start_tick,
                    end_tick=bar.end_tick,
                    beats=tuple(x + k * beat * per_tick for k in range(1, bar.meter.beats)),
                    meter=meter if meter != written else None,
                )
            )
            written = meter
            line_x = x + bar.meter.bar_ticks * per_tick
        rows.append(
            RowBox(
                index=index, bars=tuple(boxes), start_tick=group[0].start_tick, end_tick=group[-1].end_tick
            )
        )
    return rows


class OverBar(NamedTuple):
    """What stands over a bar: a section's name, a tempo in quarters a minute, the written bar that it goes on with."""

    name: str = ""
    bpm: float | None = None
    written: int | None = None
    is_again: bool = False
    """Was that written bar played before?"""


def over_bars(part: Part) -> dict[int, OverBar]:
    """Return what is written above bars, by the bar where it begins: names of sections, tempos, and signs of
    the form.

    If the tempo bends throughout, as in a free recording, only sections state theirs.
    """
    changes = part.stated_tempos
    over_bars = {s.bar: OverBar(name=s.name) for s in part.sections}
    if len(changes) > 1:
        bars = {bar.start_tick: bar.number for bar in part.bars}
        if len(changes) <= len(bars):
            over_bars = {bars[c.tick]: OverBar() for c in changes if c.tick in bars} | over_bars
        over_bars = {
            number: over._replace(bpm=part.tempos.bpm_at(part.meters.bar(number).start_tick))
            for number, over in over_bars.items()
        }
    if part.form is not None and folded(part) is not None:
        for played, written, is_again in part.form.passages:
            by = part.first_bar - 1
            over = over_bars.get(played + by, OverBar())
            over_bars[played + by] = over._replace(written=written + by, is_again=is_again)
    return over_bars
