"""Ear notes about the tempo: another one than the click's, or one that moves."""

from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from ear.criteria.timing.tempo_ear_notes import (
    FasterBars,
    FasterFrom,
    Hurries,
    HurriesInBars,
    HurriesIntoEnd,
    OwnTempo,
    SlowerAndLost,
    SlowerBars,
    SlowerFrom,
    Slows,
    SlowsInBars,
    SlowsIntoEnd,
    TempoChangeIgnored,
    TempoMoved,
    TempoMoves,
)
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.matching.outcome import Outcome
from ear.measuring.tempo import TempoStretch

BACK_WITHIN = 0.06
"""A tempo so near to the one before a stretch is that tempo again, as a share of it."""
END_BARS, END_SHARE = 4, 0.25
"""A last stretch of no more bars, or of no more of them all, is the end."""
MOVES_FROM = 5
"""Stretches from which no one change is told, but that it moves."""
MIN_LOST, LOST_TIMES = 3, 2.0
"""Missed or wrong notes in a slower stretch, and how much oftener than elsewhere, that are told with it."""


def own_tempo(c: Context) -> Iterator[Finding]:
    """Find a steady take at another tempo than the click's."""
    ratio = c.measures.timing.tempo_ratio
    if ratio != 1.0 and c.measures.has_click and c.match.time_base.pace.is_steady:
        yield OwnTempo(
            rows=c.in_order(c.linked), bars=c.whole(), ratio=ratio, played_bpm=c.measures.timing.played_bpm,
            click_bpm=c.part.tempos.first_bpm,
        )  # fmt: skip


def pace(c: Context) -> Iterator[Finding]:
    """Find a free take without a click that slows down or speeds up evenly from beginning to end."""
    if c.pace is None or not c.links:
        return
    first, last = c.pace
    yield _in_bars(c, Slows if last < first else Hurries, c.whole(), first, last)


def moving(c: Context) -> Iterator[Finding]:
    """Find each change of tempo: towards the end, in some bars, from a bar on; or, if there are many, that the
    tempo moves.
    """
    stretches = c.measures.tempo
    if not stretches or c.match.time_base.pace.is_steady:
        return
    if len(stretches) == 1:
        yield _moved(c, _named(Slows, Hurries, stretches[0].ratios), stretches[0])
        return
    if len(stretches) >= MOVES_FROM:
        all_bpm = [bpm for s in stretches for bpm in (s.first_bpm, s.last_bpm)]
        yield _in_bars(c, TempoMoves, c.whole(), min(all_bpm), max(all_bpm))
        return
    has_returned = False
    if stretches[0].ratios[0] != stretches[0].ratios[1]:
        yield _bends(c, stretches[0])
    for k, (before, here) in enumerate(pairwise(stretches)):
        if has_returned or (_is_as(here.ratios[0], before.ratios[1]) and not _is_bent(here)):
            # The way back, or where a bend comes to rest.
            has_returned = False
            continue
        after = stretches[k + 2] if k + 2 < len(stretches) else None
        moved = (before.ratios[1], here.ratios[1])
        if _ignores_change(before, here):
            has_returned = after is not None and _is_as(after.ratios[0], before.ratios[1])
            yield _in_bars(c, TempoChangeIgnored, _bars_to(c, here, after), here.first_bpm, here.click_bpm)
        elif after is None and _is_end(c, here):
            kind = _named(SlowsIntoEnd, HurriesIntoEnd, moved)
            yield _in_bars(c, kind, here.bars, before.last_bpm, here.last_bpm)
        elif after is not None and _is_as(after.ratios[0], before.ratios[1]):
            has_returned = True
            yield _apart(c, before, here)
        elif _is_bent(here):
            yield _bends(c, here)
        else:
            kind = _named(SlowerFrom, FasterFrom, moved)
            yield _in_bars(c, kind, _bars_to(c, here, after), before.last_bpm, here.first_bpm)


def _is_as(ratio: float, other: float) -> bool:
    return abs(ratio / other - 1.0) <= BACK_WITHIN


def _is_bent(stretch: TempoStretch) -> bool:
    return stretch.ratios[0] != stretch.ratios[1]


def _ignores_change(before: TempoStretch, here: TempoStretch) -> bool:
    """Is another tempo written from here on, that is not played?"""
    return here.click_bpm != before.last_click_bpm and not _is_bent(here)


def _bars_to(c: Context, here: TempoStretch, after: TempoStretch | None) -> tuple[int, int]:
    return here.bars[0], c.part.last_bar if after is None else here.bars[1]


def _named(
    slower: type[TempoMoved], faster: type[TempoMoved], ratios: tuple[float, float]
) -> type[TempoMoved]:
    """Which of the two it is, by what is played over what is written."""
    return slower if ratios[1] < ratios[0] else faster


def _is_end(c: Context, stretch: TempoStretch) -> bool:
    bars = stretch.bars[1] - stretch.bars[0] + 1
    return bars <= max(END_BARS, END_SHARE * c.part.last_bar) and c.part.last_bar > bars


def _bends(c: Context, stretch: TempoStretch) -> Finding:
    return _moved(c, _named(SlowsInBars, HurriesInBars, stretch.ratios), stretch)


def _apart(c: Context, before: TempoStretch, here: TempoStretch) -> Finding:
    """Some bars slower or faster than those about them; slower where notes are lost, that, too."""
    first, last = before.last_bpm, (here.first_bpm + here.last_bpm) / 2.0
    ratios = before.ratios[1], sum(here.ratios) / 2.0
    lost = _lost(c, here.bars) if ratios[1] < ratios[0] else 0
    if lost:
        rows = _rows_in(c, here.bars)
        return SlowerAndLost(rows=rows, bars=here.bars, first_bpm=first, last_bpm=last, count=lost)
    return _in_bars(c, _named(SlowerBars, FasterBars, ratios), here.bars, first, last)


def _lost(c: Context, bars: tuple[int, int]) -> int:
    """Notes missed or wrong in these bars, if it is far more of them than elsewhere; else 0."""
    bad = np.array([p.outcome is not Outcome.MATCHED for p in c.match.pairs[: len(c.part.notes)]])
    inside = (c.part.bar_of_note >= bars[0]) & (c.part.bar_of_note <= bars[1])
    count = int(bad[inside].sum())
    elsewhere = float(bad[~inside].mean()) if (~inside).any() else 0.0
    return count if count >= MIN_LOST and count >= LOST_TIMES * elsewhere * int(inside.sum()) else 0


def _moved(c: Context, kind: type[TempoMoved], stretch: TempoStretch) -> Finding:
    return _in_bars(c, kind, stretch.bars, stretch.first_bpm, stretch.last_bpm)


def _in_bars(c: Context, kind: type[TempoMoved], bars: tuple[int, int], first: float, last: float) -> Finding:
    return kind(rows=_rows_in(c, bars), bars=bars, first_bpm=first, last_bpm=last)


def _rows_in(c: Context, bars: tuple[int, int]) -> tuple[int, ...]:
    of_bar = c.part.bar_of_note[c.linked]
    return c.in_order(c.linked[(of_bar >= bars[0]) & (of_bar <= bars[1])])


RULES = (own_tempo, moving)
FREE_RULES = (own_tempo, pace)
