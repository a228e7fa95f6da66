"""Ear notes about time."""

import math
from collections.abc import Iterator

import numpy as np

from ear.criteria.timing.ear_notes import (
    FillsEarly,
    HandLate,
    HandUnsteady,
    Lag,
    LaneEarly,
    LaneLate,
    Lead,
    NoPulse,
    OtherDivision,
    PassageEarly,
    PassageLate,
    PlaceEarly,
    PlaceLate,
    RolledChords,
    Swing,
    SwingDeep,
    SwingStraight,
    Swung,
    Unsteady,
)
from ear.criteria.timing.tempo_ear_notes import Dragging, Rushing
from ear.findings.causes import MEDIAN_ERROR, SURE, offset_of
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.place_in_bar import PlaceInBar
from ear.matching.fit import robust_spread
from ear.measuring.computer_offset import is_computer_offset
from ear.measuring.figures import carry_over, robust_by_group, steadiness
from ear.measuring.measures import PlaceProfile
from ear.notes import HANDS, Hand
from ear.units import MAX_PITCH, TICKS_PER_QUARTER

LEAD_FROM_MS = 20.0
"""A constant lead or lag below this is nobody's habit: ears and set-ups vary as much."""
DRIFT_FROM_MS_PER_BAR = 4.0
DRIFT_FROM_MS_IN_ALL = 40.0
PLACE_FROM_MS = 18.0
MIN_PLACE_NOTES = 4
PLACE_OF_SPREAD = 0.8
"""A place is told apart if its median is off by this many of its own spreads, too."""
MAX_PLACES_SHOWN = 2
SWUNG_FROM = 1.3
"""Ratio of a beat's parts from which it is swung."""
STRAIGHT_BELOW = 0.5
DEEP_ABOVE = 1.35
HAND_NOTES, HAND_UNSTEADY_MS, HAND_TIMES = 8, 18.0, 1.8
"""Notes of each hand, spread of the worse, and times the other's, from which one hand is told to be unsteady."""
WANDER_SPREADS = 1.2
"""A passage is off by so many spreads of the whole take."""
IN_PLACE_SHARE = 0.5
"""Of the squared deviations that are left within places, below which the scatter is none."""
ROLLED_SHARE = 0.3
"""Of the spread: notes so far from the middle of their chord are those that the rolling moved."""
UNSTEADY_FROM_MS = 10.0
"""Steadiness that is worth a word where it costs enough."""
UNSTEADY_BESIDE_FROM_MS = 22.0
"""The same for who plays beside the click: what costs there is his tempo."""
MIN_PASSAGE_NOTES = 4
FAR_BEATS = 0.1
"""So far from a line of the grid a note is on a line of another one."""
DOUBTFUL_BELOW = 0.5
"""So surely in time a take is to be, or it is told that no pulse is heard."""


def _explained(deviation: np.ndarray, cause: np.ndarray | float) -> np.ndarray:
    """Of deviations, those that a cause explains by half or more."""
    explained: np.ndarray = np.abs(deviation - cause) <= np.abs(cause)
    return explained


def lead_or_lag(c: Context) -> Iterator[Finding]:
    """Find a constant lead or lag against the click: of everything but a lane or a hand that has a finding of
    its own.
    """
    own = c.measures.timing.bias_ms.value
    if own is None or c.off_click_beats is not None:
        return
    if is_computer_offset(own, c.measures.timing.spread_ms.value, notes=len(c.links)):
        return
    bias = own + (c.causes.shift_ms if c.free is None else 0.0)
    offset = offset_of(c.rest) if len(c.rest) else None
    if abs(bias) < LEAD_FROM_MS or (offset is not None and abs(bias) < SURE * offset.error_ms):
        return
    yield (Lead if bias < 0 else Lag)(
        rows=c.in_order(c.linked[_explained(c.rest + bias, bias)]), bars=c.whole(), size_ms=bias,
        error_ms=offset.error_ms if offset is not None else 0.0,
    )  # fmt: skip


def drift(c: Context) -> Iterator[Finding]:
    """Find a take that gets faster or slower from bar to bar."""
    rate = c.measures.timing.drift_ms_per_bar.value
    if rate is None or not c.links:
        return
    bars = c.part.bar_of_note[c.linked]
    in_all = rate * int(bars[-1] - bars[0])
    extent = float(np.std(bars)) * math.sqrt(len(bars))
    about = c.rest - rate * (bars - np.median(bars))
    error = MEDIAN_ERROR * robust_spread(about) * carry_over(about) / extent if extent else math.inf
    if abs(rate) < max(DRIFT_FROM_MS_PER_BAR, SURE * error) or abs(in_all) < DRIFT_FROM_MS_IN_ALL:
        return
    bar_ms = 60_000.0 * c.part.meters.first.bar_quarters / c.part.tempos.first_bpm
    away = rate * (bars - np.median(bars))
    yield (Rushing if rate < 0 else Dragging)(
        rows=c.in_order(c.linked[_explained(c.steady, away)]), bars=(int(bars[0]), int(bars[-1])),
        rate_ms_per_bar=rate, error_ms_per_bar=error, played_bpm=c.part.tempos.first_bpm / (1.0 + rate / bar_ms),
        click_bpm=c.part.tempos.first_bpm,
    )  # fmt: skip


def no_time(c: Context) -> Iterator[Finding]:
    """Find a take that is no more in time than random notes are."""
    if c.in_time < DOUBTFUL_BELOW and c.links:
        yield NoPulse(rows=c.in_order(c.linked), bars=c.whole(), in_time=c.in_time)


def fills(c: Context) -> Iterator[Finding]:
    """Find fills, or quick notes among slower ones, that are early where the rest is not."""
    offset = c.causes.fills
    if offset is None:
        return
    inside = c.causes.fill_numbers >= 0
    early = np.isin(
        c.causes.fill_numbers, np.unique(c.causes.fill_numbers[inside & (c.causes.apart_ms < 0.0)])
    )
    rows = c.in_order(c.linked[inside & early])
    bars = sorted({c.bar_of(row) for row in rows})
    yield FillsEarly(
        rows=rows, bars=c.bars_of(rows), in_bars=tuple(bars), are_quick=c.causes.are_quick, size_ms=offset.size_ms,
        error_ms=offset.error_ms,
    )  # fmt: skip


def lanes(c: Context) -> Iterator[Finding]:
    """Find a lane of the kit that is always early or late against the others."""
    for number, offset in c.causes.lanes.items():
        name = c.part.lane_name(number, c.kit)
        rows = c.in_order(i for i in c.linked.tolist() if c.lane(i) == name)
        yield (LaneEarly if offset.size_ms < 0 else LaneLate)(
            rows=rows, bars=c.bars_of(rows), lane=name, size_ms=offset.size_ms, error_ms=offset.error_ms
        )


def _stands_apart(median_ms: float, spread_ms: float, count: int) -> bool:
    sure = SURE * MEDIAN_ERROR * spread_ms / math.sqrt(max(1, count))
    return count >= MIN_PLACE_NOTES and abs(median_ms) >= max(
        PLACE_FROM_MS, PLACE_OF_SPREAD * spread_ms, sure
    )


def places(c: Context) -> Iterator[Finding]:
    """Find a place in the bar (for drums, with its lane) that is early or late.

    The notes counted are those that are off by at least half of its size.
    """
    if not c.links:
        return
    tick = c.part.ticks_into_bar[c.linked]
    has_lanes = c.part.instrument.has_lanes
    lane = c.kit.folds[c.part.pitches[c.linked]] if has_lanes else np.zeros_like(tick)
    place = tick * (MAX_PITCH + 1) + lane
    groups = robust_by_group(place, c.rest)
    # A few notes may lie close together by chance: how steady the player is, all places tell together.
    common = robust_spread(c.rest - groups.median[np.searchsorted(groups.group, place)])
    places: list[tuple[float, int, str | None]] = []
    for number, count, median, spread in zip(
        groups.group.tolist(), groups.count.tolist(), groups.median.tolist(), groups.spread.tolist(), strict=True
    ):  # fmt: skip
        name = c.part.lane_name(number % (MAX_PITCH + 1), c.kit) if has_lanes else None
        if _stands_apart(median, max(spread, common), count):
            places.append((median, number, name))
    for median, number, name in sorted(places, key=lambda row: -abs(row[0]))[:MAX_PLACES_SHOWN]:
        rows = c.in_order(c.linked[place == number])
        own = c.rest[place == number]
        error = offset_of(own).error_ms
        off = int((own * math.copysign(1.0, median) >= abs(median) / 2).sum())
        bar = c.part.bar_holding(rows[0])
        yield (PlaceEarly if median < 0 else PlaceLate)(
            rows=rows, bars=c.bars_of(rows), at=PlaceInBar.at(number // (MAX_PITCH + 1), bar), lane=name,
            size_ms=median, error_ms=error, count=off, of=len(rows),
        )  # fmt: skip


def passages(c: Context) -> Iterator[Finding]:
    """Find consecutive bars that run ahead of the rest of the take, or fall behind it."""
    bars = [p for p in c.measures.timing.by_bar if p.count >= 2]
    runs: list[list[PlaceProfile]] = []
    for profile in sorted(bars, key=lambda p: int(str(p.place))):
        if abs(profile.median_ms) <= PLACE_FROM_MS:
            continue
        follows = runs and int(str(runs[-1][-1].place)) + 1 == profile.place
        if follows and (runs[-1][0].median_ms > 0) == (profile.median_ms > 0):
            runs[-1].append(profile)
        else:
            runs.append([profile])
    of_bar = c.part.bar_of_note[c.linked]
    spread = robust_spread(c.rest) if len(c.rest) else 0.0
    for run in runs:
        at = np.isin(of_bar, [int(str(p.place)) for p in run])
        steady = c.rest[at]
        if len(steady) < MIN_PASSAGE_NOTES:
            continue
        middle = float(np.median(steady))
        # Who is unsteady wanders for some bars: that is not the place's doing.
        if abs(middle) < max(PLACE_FROM_MS, WANDER_SPREADS * spread):
            continue
        rows = c.in_order(c.linked[at])
        yield (PassageEarly if middle < 0 else PassageLate)(
            rows=rows, bars=c.bars_of(rows), size_ms=middle, worst_ms=float(np.abs(steady).max())
        )


def swing(c: Context) -> Iterator[Finding]:
    """Find off-beats that are straighter or more swung than written."""
    written, played = c.measures.feel.target_swing_ratio.value, c.measures.feel.swing_ratio.value
    if written is None or played is None:
        return
    if written >= SWUNG_FROM and played < 1 + STRAIGHT_BELOW * (written - 1):
        kind: type[Swing] = SwingStraight
    elif written >= SWUNG_FROM and played > DEEP_ABOVE * written:
        kind = SwingDeep
    elif written < SWUNG_FROM and played >= SWUNG_FROM:
        kind = Swung
    else:
        return
    off_beat = c.part.ticks_into_bar[c.linked] % c.part.meters.first.beat_ticks != 0
    rows = c.in_order(c.linked[off_beat])
    yield kind(rows=rows, bars=c.whole(), played_ratio=played, written_ratio=written)


def hands(c: Context) -> Iterator[Finding]:
    """Find one hand behind the other, or one hand unsteady where the other is not."""
    late, offset = c.causes.late_hand, c.causes.hand
    if late is not None and offset is not None:
        rows = c.in_order(i for i in c.linked.tolist() if c.part.notes[i].hand is late)
        yield HandLate(
            rows=rows, bars=c.bars_of(rows), hand=late, size_ms=offset.size_ms, error_ms=offset.error_ms
        )
    unsteady = _unsteady_hand(c)
    if unsteady is not None:
        hand, spread, other = unsteady
        rows = c.in_order(i for i in c.linked.tolist() if c.part.notes[i].hand is hand)
        yield HandUnsteady(rows=rows, bars=c.bars_of(rows), hand=hand, size_ms=spread, other_ms=other)


def _unsteady_hand(c: Context) -> tuple[Hand, float, float] | None:
    """The hand that is far less steady than the other, with both spreads in ms."""
    hand = c.part.hand_numbers[c.linked]
    by = {side: c.rest[hand == HANDS.index(side)] for side in (Hand.LEFT, Hand.RIGHT)}
    if min(len(values) for values in by.values()) < HAND_NOTES:
        return None
    spread = {side: steadiness(values, small=0.9) for side, values in by.items()}
    worse = max(spread, key=lambda side: spread[side])
    other = min(spread.values())
    is_worse = spread[worse] >= max(HAND_UNSTEADY_MS, HAND_TIMES * other)
    return (worse, spread[worse], other) if is_worse else None


def rolled_chords(c: Context) -> Iterator[Finding]:
    """Find chords of one hand whose notes come one after the other."""
    roll = c.causes.roll
    spread = c.measures.timing.chord_spread_ms.value
    if roll is None or spread is None:
        return
    onsets = c.part.onset_ticks[c.linked]
    _, number, count = np.unique(onsets, return_inverse=True, return_counts=True)
    middle = np.bincount(number, c.steady) / count
    rolled = (count[number] > 1) & (np.abs(c.steady - middle[number]) >= ROLLED_SHARE * spread)
    rows = c.in_order(c.linked[rolled])
    yield RolledChords(rows=rows, bars=c.whole(), size_ms=spread, error_ms=roll.error_ms)


def unsteady(c: Context) -> Iterator[Finding]:
    """Find notes scattered about the player's own time."""
    spread = c.measures.timing.spread_ms.value
    if spread is None or _is_in_place(c) or _unsteady_hand(c) is not None:
        return
    least = UNSTEADY_FROM_MS if c.match.time_base.pace.is_click else UNSTEADY_BESIDE_FROM_MS
    if spread >= least:
        yield Unsteady(rows=c.in_order(c.linked), bars=c.whole(), size_ms=spread)


def _is_in_place(c: Context) -> bool:
    """Is most of the scatter that some places of the bar, a lane, a hand or rolled chords are early or late?"""
    if len(c.rest) < MIN_PASSAGE_NOTES:
        return False
    tick = c.part.ticks_into_bar[c.linked]
    groups = robust_by_group(tick, c.rest)
    within = c.rest - groups.median[np.searchsorted(groups.group, tick)]
    return float(np.mean(within**2)) < IN_PLACE_SHARE * float(np.mean(c.steady**2))


def division(c: Context) -> Iterator[Finding]:
    """Find another division of the beat than the one that a free exercise asks for."""
    if c.free is None or c.free.division is None:
        return
    between = c.part.ticks_into_bar[c.linked] % c.part.meters.first.beat_ticks != 0
    # What is far from its line stands on one of the other division.
    beat_ms = 60_000.0 / c.part.tempos.first_bpm * c.part.meters.first.beat_ticks / TICKS_PER_QUARTER
    far = np.abs(c.steady) >= FAR_BEATS * beat_ms
    rows = c.in_order(c.linked[between | far])
    asked = c.free.asked_division
    yield OtherDivision(rows=rows, bars=c.whole(), played=c.free.division, asked=asked)


RULES = (lead_or_lag, drift, no_time, fills, lanes, places, passages, swing, hands, rolled_chords, unsteady)
FREE_RULES = (division, swing, no_time, lead_or_lag, drift, lanes, places, passages, unsteady)
