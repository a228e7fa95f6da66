"""Move notes onto a grid, and say beforehand which would go where."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ear.editing.edited import Edited, Selection, chosen, rebuilt
from ear.errors import ValueOutOfRange
from ear.measuring.grid import GRID_STEPS
from ear.notes import Part
from ear.numerals import decimal

MAX_SWING = 4.0
CHORD_TICKS = 36
"""Onsets nearer than this were meant together."""
UNCLEAR_SHARE = 0.35
"""Of the gap between two lines: a note that far from both may be meant for either."""


@dataclass(frozen=True, slots=True, kw_only=True)
class QuantiseGrid:
    """Lines of a grid: `step` ticks apart, the second of each pair put off by swing."""

    step: int
    swing: float = 1.0
    """First part of a pair to its second: 1 straight, 2 triplets."""

    def __post_init__(self) -> None:
        if self.step < 1 or not 1.0 <= self.swing <= MAX_SWING:
            raise ValueOutOfRange("grid_out_of_range", swing_most=decimal(MAX_SWING))

    def lines(self, ticks: int) -> list[int]:
        """Return the grid lines, in ticks from the bar's start, of a bar of so many ticks, both ends included."""
        pair = 2 * self.step
        off_beat = round(pair * self.swing / (1.0 + self.swing))
        lines = [start + into for start in range(0, ticks, pair) for into in (0, off_beat)]
        return [line for line in lines if line < ticks] + [ticks]


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """Where a note would go. `is_unclear`: it lies so far between two lines that either may be meant."""

    note: int
    from_tick: int
    to_tick: int
    length_tick: int
    is_unclear: bool


def plan(
    part: Part,
    selection: Selection,
    grid: QuantiseGrid,
    *,
    strength: float = 1.0,
    lengths: bool = False,
    off_by_more_ms: float = 0.0,
) -> tuple[Move, ...]:
    """Return the moves of the selected notes, or of all if none is selected, including those that stay.

    `strength` 0 to 1: the share of the way to the line. With `lengths`, ends go to lines, too.
    Notes no further from their line than `off_by_more_ms` are left out, and stay as they were played. Lines are counted in
    each bar anew. Raises ValueOutOfRange for another strength.
    """
    if not 0.0 <= strength <= 1.0:
        raise ValueOutOfRange("strength_out_of_range")
    moves = []
    for i in sorted(chosen(part, selection)):
        note = part.notes[i]
        line, gap, off = _nearest(part, grid, note.onset_tick)
        off_s = part.tempos.second_at(note.onset_tick) - part.tempos.second_at(line)
        if off_by_more_ms and 1000.0 * abs(off_s) <= off_by_more_ms:
            continue
        to = note.onset_tick + round(strength * (line - note.onset_tick))
        length = note.length_tick
        if lengths:
            end, _, _ = _nearest(part, grid, note.end_tick)
            end = max(end, line + grid.step // 2)
            length = max(1, round(note.length_tick + strength * (end - line - note.length_tick)))
        moves.append(
            Move(
                note=i,
                from_tick=note.onset_tick,
                to_tick=to,
                length_tick=length,
                is_unclear=off > UNCLEAR_SHARE * gap,
            )
        )
    return tuple(moves)


def _nearest(part: Part, grid: QuantiseGrid, tick: int) -> tuple[int, int, int]:
    """The line nearest to a tick, the gap between the lines about it, and the distance."""
    bar = part.meters.bar_at(tick)
    lines = grid.lines(bar.meter.bar_ticks)
    into = tick - bar.start_tick
    after = int(np.searchsorted(lines, into))
    before = max(0, after - 1) if after < len(lines) and lines[after] != into else after
    below, above = lines[min(before, len(lines) - 1)], lines[min(after, len(lines) - 1)]
    nearest = below if into - below <= above - into else above
    return bar.start_tick + nearest, above - below, abs(into - nearest)


def quantise(part: Part, moves: Sequence[Move]) -> Edited:
    """Apply the moves of a plan, and return the part."""
    to = {m.note: m for m in moves}
    return rebuilt(
        part,
        [
            (replace(n, onset_tick=to[i].to_tick, length_tick=to[i].length_tick), True)
            if i in to
            else (n, False)
            for i, n in enumerate(part.notes)
        ],
    )


def suggested_step(part: Part, selection: Selection) -> int:
    """Return the widest step, in ticks, that the selected notes need (all, if none is selected), by the
    shortest distance between them.

    The smallest gap between two onsets, to the nearest of the usual steps; a quarter for fewer
    than two onsets.
    """
    onsets = sorted({part.notes[i].onset_tick for i in chosen(part, selection)})
    gaps = [gap for gap in np.diff(onsets).tolist() if gap > CHORD_TICKS]
    if not gaps:
        return GRID_STEPS[0]
    shortest = min(gaps)
    return min(GRID_STEPS, key=lambda step: abs(np.log(step / shortest)))
