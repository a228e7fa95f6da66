"""The sustain pedal as it was played, against what is written: changed in time, blurred, or dry.

A written move is looked for near the sound that it belongs to: the chord of that place as the player struck
it, or, where nothing was struck, the place in the player's own time. In legato pedalling the foot comes up
with the new harmony and goes down again just after it: too late, and two harmonies sound into each other
(blurred); too early or not at all, and the sound breaks off (dry). Cf. K. U. Schnabel, "Modern Technique of the
Pedal", 1950, on the syncopated pedal.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ear.matching.outcome import Match
from ear.measuring.figures import Floats
from ear.measuring.linked import Linked
from ear.notes import Part, PedalMove, PedalSpan, Take, pedal_points
from ear.units import TICKS_PER_QUARTER

EARLY_REACH_MS, LATE_REACH_MS = 300.0, 450.0
"""How far from its place a move is still the one that is written: beyond, the ear takes it for another."""
NEXT_SHARE = 0.5
"""Share of the way to the written moves beside it that a move may be off; of close moves the nearer counts."""


class PedalOutcome(StrEnum):
    """What became of a written move of the pedal."""

    MOVED = "moved"
    """The foot moved near the written place; how near, the deviation says."""
    BLURRED = "blurred"
    """The pedal stayed down: what sounded before sounds on."""
    DRY = "dry"
    """The pedal was not down, or not taken again: nothing is held."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PedalMeasure:
    """One written move. `row` is the target note at which it is heard."""

    tick: int
    move: PedalMove
    outcome: PedalOutcome
    deviation_ms: float | None
    """Of the foot from the sound: negative early; None unless it moved."""
    row: int


def measure_pedal(part: Part, take: Take, match: Match, linked: Linked) -> tuple[PedalMeasure, ...]:
    """Return every written move in order, except lifts after a place that was left dry, where there is nothing
    to lift.

    Empty where the part writes no pedal or has no notes.
    """
    points = pedal_points(part.pedal)
    if not points or not part.notes:
        return ()
    onsets = part.onset_ticks
    seconds = _expected_s(part, match, linked, [point.tick for point in points])
    presses = [span.start_s for span in take.pedal]
    lifts = [span.end_s for span in take.pedal]
    measures: list[PedalMeasure] = []
    was_dry = False
    for k, (point, at) in enumerate(zip(points, seconds.tolist(), strict=True)):
        before = (at - seconds[k - 1]) * NEXT_SHARE if k else np.inf
        after = (seconds[k + 1] - at) * NEXT_SHARE if k + 1 < len(points) else np.inf
        first = at - min(EARLY_REACH_MS / 1000.0, before)
        last = at + min(LATE_REACH_MS / 1000.0, after)
        press, lift = _nearest(presses, at, first, last), _nearest(lifts, at, first, last)
        outcome, moved_s = _outcome(point.move, press, lift, take=take, at=at, last=last)
        if point.move is PedalMove.UP and was_dry and outcome is not PedalOutcome.MOVED:
            continue
        was_dry = outcome is PedalOutcome.DRY
        row = int(np.searchsorted(onsets, point.tick))
        measures.append(
            PedalMeasure(
                tick=point.tick,
                move=point.move,
                outcome=outcome,
                deviation_ms=None if moved_s is None else 1000.0 * (moved_s - at),
                row=min(row, len(onsets) - 1),
            )
        )
    return tuple(measures)


def _outcome(
    move: PedalMove, press: float | None, lift: float | None, *, take: Take, at: float, last: float
) -> tuple[PedalOutcome, float | None]:
    """What became of a move, and when the foot moved."""
    k = bisect_right(take.pedal, at, key=_start) - 1
    is_down = k >= 0 and at < take.pedal[k].end_s
    if move is PedalMove.UP:
        if lift is not None:
            return PedalOutcome.MOVED, lift
        return (PedalOutcome.BLURRED if is_down else PedalOutcome.DRY), None
    if move is PedalMove.DOWN:
        if press is not None:
            return PedalOutcome.MOVED, press
        return (PedalOutcome.BLURRED if is_down else PedalOutcome.DRY), None
    if lift is None:
        if press is not None and not is_down:
            return PedalOutcome.MOVED, press
        return (PedalOutcome.BLURRED if is_down else PedalOutcome.DRY), None
    # Taken again before the place is over, or left open.
    again = bisect_left(take.pedal, lift - 1e-9, key=_start)
    is_taken_again = again < len(take.pedal) and take.pedal[again].start_s <= last
    return (PedalOutcome.MOVED, lift) if is_taken_again else (PedalOutcome.DRY, None)


def _start(span: PedalSpan) -> float:
    return span.start_s


def _nearest(times: Sequence[float], at: float, first: float, last: float) -> float | None:
    """Of times in order the nearest to `at` among those from `first` to `last`, which are about it."""
    k = bisect_left(times, at)
    return min(
        (t for t in times[max(0, k - 1) : k + 1] if first <= t <= last),
        key=lambda t: abs(t - at),
        default=None,
    )


def _expected_s(part: Part, match: Match, linked: Linked, ticks: Sequence[int]) -> Floats:
    """When each of these places sounded: the middle of the notes struck there, or the player's own time."""
    quarters = np.array(ticks, dtype=np.float64) / TICKS_PER_QUARTER
    own = match.time_base.expected_s(quarters, part.tempos)
    struck = part.onset_ticks[linked.target]
    for k, tick in enumerate(ticks):
        there = linked.take_s[struck == tick]
        if len(there):
            own[k] = float(np.median(there))
    return own
