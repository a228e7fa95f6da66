"""Swing, snapping to the grid, legato, and ramps of strength."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ear.measuring.figures import Figure, figure, no_figure, theil_sen
from ear.measuring.linked import Linked
from ear.notes import Kind, Part, Take
from ear.units import TICKS_PER_QUARTER

OFF_BEAT_FROM, OFF_BEAT_TO = 0.4, 0.8
"""Shares of a beat between which a note is its off-beat."""
LEAST_PAIRS = 3
LEGATO_GAP_TICKS = 60
"""Written notes further apart than this are meant apart."""
RAMP_LEAST_MOMENTS = 6
RAMP_LEAST_STEPS = 20
"""Velocity steps that a ramp rises or falls at least."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ramp:
    """A written crescendo (slope above 0) or diminuendo, in velocity steps a quarter note."""

    first_tick: int
    last_tick: int
    target_slope: float
    take_slope: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Feel:
    swing_ratio: Figure
    """First part of the beat to its second, as played; median over off-beat pairs."""
    target_swing_ratio: Figure
    snap_errors: tuple[int, ...]
    """Target notes that quantising to the part's grid would put on another line."""
    overlap_ms: Figure
    """How far a note sounds into the next of its hand; negative: a gap. Median."""
    ramps: tuple[Ramp, ...]


def measure_feel(part: Part, take: Take, linked: Linked, *, grid_ticks: int) -> Feel:
    target_swing, swing = _swing(part, linked)
    return Feel(
        swing_ratio=swing,
        target_swing_ratio=target_swing,
        snap_errors=_snap_errors(part, linked, grid_ticks=grid_ticks),
        overlap_ms=_overlap(part, take, linked),
        ramps=_ramps(part, linked),
    )


def _swing(part: Part, linked: Linked) -> tuple[Figure, Figure]:
    """Moments that stand alone between two beats which were played, too."""
    ticks, first, count = np.unique(
        np.round(linked.quarter * TICKS_PER_QUARTER).astype(int), return_index=True, return_counts=True
    )
    seconds = np.add.reduceat(linked.take_s, first) / count if len(ticks) else np.zeros(0)
    bars = part.bar_of_note[linked.target[first]].tolist() if len(ticks) else []
    written: list[float] = []
    sounded: list[float] = []
    for k in range(1, len(ticks) - 1):
        bar = part.bars[bars[k] - 1]
        beat_ticks = bar.meter.beat_ticks
        into = int(ticks[k] - bar.start_tick) % beat_ticks
        share = into / beat_ticks
        if bar.meter.is_compound or not OFF_BEAT_FROM <= share <= OFF_BEAT_TO:
            continue
        if ticks[k] - ticks[k - 1] == into and ticks[k + 1] - ticks[k] == beat_ticks - into:
            second_part = float(seconds[k + 1] - seconds[k])
            if second_part > 0:
                written.append(share / (1.0 - share))
                sounded.append(float(seconds[k] - seconds[k - 1]) / second_part)
    if len(sounded) < LEAST_PAIRS:
        no = no_figure(f"fewer than {LEAST_PAIRS} off-beats stand alone between two beats")
        return no, no
    return figure(float(np.median(written))), figure(float(np.median(sounded)))


def _snap_errors(part: Part, linked: Linked, *, grid_ticks: int) -> tuple[int, ...]:
    grid_ms = 60_000.0 / part.tempos.first_bpm * grid_ticks / TICKS_PER_QUARTER
    off = np.abs(linked.deviation_ms) > grid_ms / 2
    return tuple(linked.target[off].tolist())


def _overlap(part: Part, take: Take, linked: Linked) -> Figure:
    if part.kind is Kind.DRUMS:
        return no_figure("a drum hit has no length")
    overlaps: list[float] = []
    rows = list(zip(linked.target.tolist(), linked.take.tolist(), strict=True))
    for hand in {n.hand for n in part.notes}:
        line = [(part.notes[i], take.notes[j]) for i, j in rows if part.notes[i].hand == hand]
        for (written, sounded), (following, next_sounded) in pairwise(line):
            gap = following.onset_tick - written.end_tick
            if following.onset_tick > written.onset_tick and abs(gap) <= LEGATO_GAP_TICKS:
                overlaps.append(1000.0 * (sounded.onset_s + sounded.length_s - next_sounded.onset_s))
    if len(overlaps) < LEAST_PAIRS:
        return no_figure("too few notes are written without a gap")
    return figure(float(np.median(overlaps)))


def _ramps(part: Part, linked: Linked) -> tuple[Ramp, ...]:
    """Written stretches in which strength only rises, or only falls, by enough."""
    moments: dict[int, list[tuple[int, int]]] = {}
    for i, written, sounded in zip(
        linked.target.tolist(), linked.target_velocity.tolist(), linked.take_velocity.tolist(), strict=True
    ):
        moments.setdefault(part.notes[i].onset_tick, []).append((written, sounded))
    ticks = sorted(moments)
    level = [sum(w for w, _ in moments[t]) / len(moments[t]) for t in ticks]
    found: list[Ramp] = []
    for sign in (1, -1):
        start = 0
        for k in range(1, len(ticks) + 1):
            if k < len(ticks) and sign * (level[k] - level[k - 1]) >= 0:
                continue
            rises = sign * (level[k - 1] - level[start])
            if k - start >= RAMP_LEAST_MOMENTS and rises >= RAMP_LEAST_STEPS:
                found.append(_ramp(ticks[start:k], level[start:k], moments))
            start = k
    return tuple(sorted(found, key=lambda ramp: ramp.first_tick))


def _ramp(ticks: list[int], level: list[float], moments: dict[int, list[tuple[int, int]]]) -> Ramp:
    quarters = np.array(ticks) / TICKS_PER_QUARTER
    sounded = np.array([sum(s for _, s in moments[t]) / len(moments[t]) for t in ticks])
    return Ramp(
        first_tick=ticks[0],
        last_tick=ticks[-1],
        target_slope=theil_sen(quarters, np.array(level)),
        take_slope=theil_sen(quarters, sounded),
    )
