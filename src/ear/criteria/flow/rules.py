"""What is heard of whether the music kept going."""

from collections.abc import Iterator, Sequence

import numpy as np

from ear.criteria.flow.bars_ear_notes import BarsEmpty, BarsFull, BarsNotAsAsked, BarsThin, NotRepeated
from ear.criteria.flow.ear_notes import (
    TIME_SLIPS,
    EarlyStart,
    Halting,
    LateStart,
    OffClick,
    PutRight,
    Restarts,
)
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.place_in_bar import PlaceInBar
from ear.matching.outcome import Outcome, Slip, SlipKind
from ear.measuring.computer_offset import is_computer_offset
from ear.units import TICKS_PER_QUARTER

FRACTION_BEATS = 0.15
"""A start so far beside a beat of the click is off the click, not some beats late."""
MIN_HALTS, HALTS_A_BAR = 3, 0.3
"""Stops that are one habit: so many at least, and so many for each bar."""
MAX_HALT_S = 1.0
"""A longer stop is heard by itself."""
EACH_SHARE = 0.7
"""Of the bars before which the music stops, from which it does before each."""
REPEATED_FROM = 0.9
"""Share of second bars that repeat the first, from which they do."""


def slips(c: Context) -> Iterator[Finding]:
    """Find places where time was lost, gained or jumped over: each by itself, but for stops that are one habit, and for
    wrong keys put right.
    """
    breaks = c.match.time_base.slips
    halts = _halts(c)
    for slip in breaks:
        if slip not in halts and slip.kind is not SlipKind.PUT_RIGHT:
            yield _time_slip(c, slip)
    if halts:
        yield _halting(c, halts)


def off_click(c: Context) -> Iterator[Finding]:
    """Find a take that is beside the click from its first note on, by less than a start can be late."""
    timing = c.measures.timing
    if c.off_click_beats is None or is_computer_offset(
        timing.bias_ms.value, timing.spread_ms.value, notes=len(c.links)
    ):
        return
    first = int(c.linked[0])
    start = Slip(
        target=first, quarter=float(c.part.onset_ticks[first]) / TICKS_PER_QUARTER,
        quarters=c.off_click_beats * c.part.meters.first.beat_ticks / TICKS_PER_QUARTER,
        kind=SlipKind.LATE_START if c.off_click_beats > 0 else SlipKind.EARLY_START,
    )  # fmt: skip
    yield _time_slip(c, start)


def _time_slip(c: Context, slip: Slip) -> Finding:
    bar = c.part.bar_holding(slip.target)
    tick = c.part.notes[slip.target].onset_tick - bar.start_tick
    beats = abs(slip.quarters) * TICKS_PER_QUARTER / bar.meter.beat_ticks
    beside, off_beats = _beside(c, [slip])
    kind, more = TIME_SLIPS[slip.kind], {}
    rows = [slip.target]
    if slip.kind in (SlipKind.RESTART, SlipKind.REPEAT_ADDED):
        rows += [n for n, p in c.left_over if p.is_abandoned]
    if kind is Restarts:
        more = {"attempts": slip.attempts}
    elif kind in (LateStart, EarlyStart) and off_beats >= FRACTION_BEATS:
        kind = OffClick
    return kind(
        rows=c.in_order(rows), bars=(bar.number, bar.number), quarters=float(slip.quarters), beats=round(beats, 2),
        bar=bar.number, quarter_in_part=float(slip.quarter), at=PlaceInBar.at(tick, bar), is_guess=slip.is_guess,
        off_beats=off_beats, beside=beside, left_out=_left_out(c, slip), **more,
    )  # fmt: skip


def _beside(c: Context, breaks: Sequence[Slip]) -> tuple[tuple[int, ...], float]:
    """Rows that stand beside the click from some breaks on, each up to the next break; and how far, in beats.

    None for who plays at a tempo of his own: he was beside the click before."""
    if not c.measures.has_click or not c.match.time_base.pace.is_click:
        return (), 0.0
    firsts = [slip.target for slip in c.match.time_base.slips]
    at = np.zeros(len(c.linked), dtype=bool)
    for slip in breaks:
        after = next((first for first in firsts if first > slip.target), len(c.part.notes))
        at |= (c.linked >= slip.target) & (c.linked < after)
    at &= c.click_distance.beside > 0.0
    if not at.any():
        return (), 0.0
    off_beats = float(np.median(np.abs(c.click_distance.off_beats[at])))
    return c.in_order(c.linked[at]), round(off_beats, 2)


def _left_out(c: Context, slip: Slip) -> tuple[int, ...]:
    """Rows of the notes that a jump ahead passed over."""
    if slip.kind not in (SlipKind.SKIP, SlipKind.SKIP_BAR, SlipKind.REPEAT_LEFT_OUT):
        return ()
    first, after = slip.quarter + slip.quarters, slip.quarter
    quarter = c.part.onset_ticks / TICKS_PER_QUARTER
    missed = [p.outcome is Outcome.MISSED for p in c.match.pairs[: len(c.part.notes)]]
    return c.in_order(np.flatnonzero((quarter >= first - 0.01) & (quarter < after - 0.01) & missed))


def _halts(c: Context) -> list[Slip]:
    """Short stops that are one habit: at least so many, and in so many of the bars."""
    stops = [
        slip
        for slip in c.match.time_base.slips
        if slip.kind is SlipKind.SLIP and slip.quarters * _quarter_s(c, slip) <= MAX_HALT_S
    ]
    is_habit = len(stops) >= MIN_HALTS and len(stops) >= HALTS_A_BAR * len(c.part.bars)
    return stops if is_habit else []


def _quarter_s(c: Context, slip: Slip) -> float:
    return c.match.time_base.quarter_s(slip.quarter, c.part.tempos)


def _halting(c: Context, stops: Sequence[Slip]) -> Finding:
    at_bar = [slip for slip in stops if c.part.ticks_into_bar[slip.target] == 0]
    is_each_bar = len(at_bar) >= EACH_SHARE * max(len(stops), len(c.part.bars) - 1)
    seconds = sorted(slip.quarters * _quarter_s(c, slip) for slip in stops)
    rows = c.in_order(slip.target for slip in stops)
    beside, _off = _beside(c, stops)
    return Halting(
        rows=rows, bars=c.bars_of(rows), count=len(stops), least_s=round(seconds[0], 2),
        most_s=round(seconds[-1], 2), is_each_bar=is_each_bar, beside=beside,
    )  # fmt: skip


def put_right(c: Context) -> Iterator[Finding]:
    """Find wrong keys that were followed at once by the right ones."""
    wrong = [(n, p.near) for n, p in c.left_over if p.is_put_right and p.near is not None]
    if not wrong:
        return
    stops = [slip for slip in c.match.time_base.slips if slip.kind is SlipKind.PUT_RIGHT]
    beside, _off = _beside(c, stops)
    yield PutRight(
        rows=c.in_order(n for n, _ in wrong), bars=c.bars_of(near for _, near in wrong), count=len(wrong),
        stops=c.in_order(near for _, near in wrong), beside=beside,
    )  # fmt: skip


def density(c: Context) -> Iterator[Finding]:
    """Find bars with fewer notes than asked for, with more, or with none."""
    assert c.free is not None
    kinds: tuple[tuple[type[BarsNotAsAsked], tuple[int, ...], int], ...] = (
        (BarsEmpty, c.free.empty_bars, 1),
        (BarsThin, c.free.thin_bars, c.free.least_a_bar),
        (BarsFull, c.free.full_bars, c.free.most_a_bar or 0),
    )
    for kind, bars, asked in kinds:
        if bars and c.take.notes:
            rows = c.in_order(i for i in c.linked.tolist() if c.bar_of(i) in set(bars))
            yield kind(rows=rows, bars=(bars[0], bars[-1]), count=len(bars), where=bars[0], asked=asked)


def repeats(c: Context) -> Iterator[Finding]:
    """Find second bars of pairs that do not repeat the first."""
    assert c.free is not None
    if c.free.repeated is not None and c.free.repeated < REPEATED_FROM:
        rows = c.in_order(i for i in c.linked.tolist() if c.bar_of(i) % 2 == 0)
        yield NotRepeated(rows=rows, bars=c.whole(), share=c.free.repeated)


RULES = (slips, off_click, put_right)
FREE_RULES = (density, repeats)
