"""Swing, snapping to the grid, legato, and ramps of strength."""

from dataclasses import dataclass

import numpy as np

from ear.measuring.figures import Figure, WhyNot, figure, no_figure, theil_sen
from ear.measuring.linked import Linked
from ear.notes import HANDS, Part, Take
from ear.units import TICKS_PER_QUARTER

OFF_BEAT_FROM, OFF_BEAT_TO = 0.4, 0.8
"""Shares of a beat between which a note is its off-beat."""
MIN_PAIRS = 3
LEGATO_GAP_TICKS = 60
"""Written notes further apart than this are meant apart."""
MIN_RAMP_MOMENTS = 6
PLAYED_SHARE = 0.7
"""Of a ramp's moments that were played, from which it can be judged."""
MIN_RAMP_STEPS = 20
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
    """How the time between the beats was shaped."""

    swing_ratio: Figure
    """First part of the beat to its second, as played; median over off-beat pairs."""
    target_swing_ratio: Figure
    snap_errors: tuple[int, ...]
    """Target notes that quantising to the part's grid would put on another line."""
    overlap_ms: Figure
    """How far a note sounds into the next of its hand; negative: a gap. Median."""
    ramps: tuple[Ramp, ...]


def measure_feel(part: Part, take: Take, linked: Linked, *, grid_ticks: int) -> Feel:
    """Measure swing, snapping to a wrong grid, and ramps of velocity."""
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
    no = no_figure(WhyNot.FEW_OFF_BEATS)
    if not len(linked):
        return no, no
    ticks, first, count = np.unique(part.onset_ticks[linked.target], return_index=True, return_counts=True)
    seconds = np.add.reduceat(linked.take_s, first) / count
    meters = [bar.meter for bar in part.bars]
    bar = part.bar_index_of_note[linked.target[first]]
    beat = np.array([meter.beat_ticks for meter in meters])[bar]
    into = part.ticks_into_bar[linked.target[first]] % beat
    share = into / beat
    here = slice(1, -1)
    before, after = np.diff(ticks)[:-1], np.diff(ticks)[1:]
    first_part, second_part = np.diff(seconds)[:-1], np.diff(seconds)[1:]
    alone = (
        ~np.array([meter.is_compound for meter in meters])[bar][here]
        & (share[here] >= OFF_BEAT_FROM)
        & (share[here] <= OFF_BEAT_TO)
        & (before == into[here])
        & (after == (beat - into)[here])
        & (second_part > 0)
    )
    if np.count_nonzero(alone) < MIN_PAIRS:
        return no, no
    off_beat = share[here][alone]
    written = off_beat / (1.0 - off_beat)
    sounded = first_part[alone] / second_part[alone]
    return figure(float(np.median(written))), figure(float(np.median(sounded)))


def _snap_errors(part: Part, linked: Linked, *, grid_ticks: int) -> tuple[int, ...]:
    grid_ms = 60_000.0 / part.tempos.bpms(linked.quarter) * grid_ticks / TICKS_PER_QUARTER
    off = np.abs(linked.deviation_ms) > grid_ms / 2
    return tuple(linked.target[off].tolist())


def _overlap(part: Part, take: Take, linked: Linked) -> Figure:
    if not part.instrument.has_length:
        return no_figure(WhyNot.STROKES_HAVE_NO_LENGTH)
    onset, end = part.onset_ticks[linked.target], part.end_ticks[linked.target]
    sounds_from = take.onsets_s[linked.take]
    sounds_to = sounds_from + take.lengths_s[linked.take]
    hand = part.hand_numbers[linked.target]
    overlap = []
    for number in range(len(HANDS)):
        line = np.nonzero(hand == number)[0]
        this, following = line[:-1], line[1:]
        joined = (onset[following] > onset[this]) & (np.abs(onset[following] - end[this]) <= LEGATO_GAP_TICKS)
        overlap.append((sounds_to[this] - sounds_from[following])[joined])
    overlaps = np.concatenate(overlap)
    if len(overlaps) < MIN_PAIRS:
        return no_figure(WhyNot.FEW_JOINED)
    return figure(1000.0 * float(np.median(overlaps)))


def _ramps(part: Part, linked: Linked) -> tuple[Ramp, ...]:
    """Written stretches in which strength only rises, or only falls, by enough."""
    if not len(linked):
        return ()
    tick, number, count = np.unique(part.onset_ticks, return_inverse=True, return_counts=True)
    quarter = tick / TICKS_PER_QUARTER
    level = (np.bincount(number, part.velocities) / count).tolist()
    played = np.bincount(number[linked.target], minlength=len(tick))
    is_played = played > 0
    # Of the notes that were played, written and sounded.
    written, sounded = (
        np.bincount(number[linked.target], velocity, len(tick)) / np.maximum(played, 1)
        for velocity in (linked.target_velocity, linked.take_velocity)
    )
    ramps: list[Ramp] = []
    for sign in (1, -1):
        start = 0
        for k in range(1, len(level) + 1):
            if k < len(level) and sign * (level[k] - level[k - 1]) >= 0:
                continue
            rises = sign * (level[k - 1] - level[start])
            inside = start + np.flatnonzero(is_played[start:k])
            is_there = len(inside) >= max(MIN_RAMP_MOMENTS, PLAYED_SHARE * (k - start))
            if is_there and rises >= MIN_RAMP_STEPS:
                ramps.append(
                    Ramp(
                        first_tick=int(tick[start]),
                        last_tick=int(tick[k - 1]),
                        target_slope=theil_sen(quarter[inside], written[inside]),
                        take_slope=theil_sen(quarter[inside], sounded[inside]),
                    )
                )
            start = k
    return tuple(sorted(ramps, key=lambda ramp: ramp.first_tick))
