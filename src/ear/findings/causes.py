"""What of a take's timing one cause explains: fills that rush, a lane or a hand apart from the rest, chords that are rolled.

They are fitted in turn, the likeliest first, and each is taken out before the next is looked for: so one cause is told once,
by its own name, with what it leaves unsure.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.findings.fills import fills_of
from ear.matching.fit import robust_spread
from ear.measuring.figures import Floats, Ints, carry_over, robust_by_group
from ear.notes import HANDS, Hand, KitMap, Part

MIN_NOTES = 4
"""Notes, or pairs of notes, from which a cause is told."""
APART_MS, HAND_MS, ROLL_MS = 18.0, 20.0, 12.0
"""A lane, a hand, each note of a chord, off by so much at least;"""
FILL_MS, EARLY_SHARE = 18.0, 0.6
"""Fills, by their middle, early by so much at least, and so many of them by half of it."""
ALL_THROUGH_SHARE = 0.5
"""Of the bars in which a voice is, from which it is off all through."""
SURE = 3.0
"""and by so many of its own standard errors."""
LANE_SPREADS = 0.8
"""A lane is off by so much of its own spread, too."""
AGREE_MS = 12.0
"""Other lanes are one if they are within this of each other."""
MEDIAN_ERROR = 1.2533
"""Standard error of a median over that of a mean, for a normal distribution."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Offset:
    """So many ms later than the rest, give or take `error_ms` (one standard error)."""

    size_ms: float
    error_ms: float
    count: int

    @property
    def is_sure(self) -> bool:
        """Is it more than chance?"""
        return abs(self.size_ms) >= SURE * self.error_ms


@dataclass(frozen=True, slots=True, kw_only=True)
class Causes:
    """`rest_ms` is what of `steady_ms` is left, and `shift_ms` what of it the lead or lag of the rest is; (links,)."""

    fills: Offset | None
    fill_numbers: Ints
    """Of each link the number of its fill, -1 for none."""
    are_quick: bool
    """The fills are quick notes of a tune."""
    lanes: dict[int, Offset]
    late_hand: Hand | None
    hand: Offset | None
    roll: Offset | None
    apart_ms: Floats
    """What of each link these explain, rolled chords apart: by how much its voice is off from the rest."""
    rest_ms: Floats
    shift_ms: float


def offset_of(values: Floats, *, wanders: bool = True) -> Offset:
    """Return the median of some deviations, in order of time, with its error, in ms. The values have shape (n,), n >= 1.

    `wanders` says that what carries over from one to the next is chance, and makes them less sure.
    """
    error = MEDIAN_ERROR * robust_spread(values) / np.sqrt(len(values)) if len(values) > 1 else np.inf
    if wanders:
        error *= carry_over(values)
    return Offset(size_ms=float(np.median(values)), error_ms=float(error), count=len(values))


def causes_of(part: Part, target: Ints, steady_ms: Floats, bias_ms: float, *, kit: KitMap) -> Causes:
    """Return the causes that explain deviations: lanes, hands and places.

    `target` and `steady_ms` have shape (links,); `bias_ms` has been subtracted already.
    """
    rest = steady_ms.astype(np.float64).copy()
    apart = np.zeros(len(rest))
    lanes: dict[int, Offset] = {}
    late, hand, roll = None, None, None
    figures = fills_of(part, kit=kit)
    number, bar = figures.number[target], part.bar_of_note[target]
    fills = _fills(number, rest)
    if fills is not None:
        apart = _rush(part.onset_ticks[target], number, rest)
        rest -= apart
    if part.instrument.has_lanes:
        lane = kit.folds[part.pitches[target]]
        lanes = _lanes(lane, rest, bias_ms, bar=bar, outside=number < 0)
        for each, offset in lanes.items():
            apart[lane == each] += offset.size_ms
            rest[lane == each] -= offset.size_ms
    else:
        roll = _roll(part, target, rest)
        if roll is not None:
            # Rolled in each hand by itself, or through both.
            rolled = [rest - roll.size_ms * _place_in_chord(part, target, by_hand=by) for by in (True, False)]
            rest = min(rolled, key=robust_spread)
        late, hand = _hand(part.hand_numbers[target], rest, bar=bar)
        if late is not None and hand is not None:
            is_late = part.hand_numbers[target] == HANDS.index(late)
            apart[is_late] += hand.size_ms
            rest[is_late] -= hand.size_ms
    shift = float(np.median(rest)) if len(rest) else 0.0
    return Causes(
        fills=fills, fill_numbers=number, are_quick=figures.is_quick, lanes=lanes, late_hand=late, hand=hand,
        roll=roll, apart_ms=apart, rest_ms=rest - shift, shift_ms=shift,
    )  # fmt: skip


def _fills(number: Ints, rest: Floats) -> Offset | None:
    """By how much fills are early, if most of them are, and what is outside of them is not."""
    inside = number >= 0
    if inside.sum() < MIN_NOTES or (~inside).sum() < MIN_NOTES:
        return None
    outside = float(np.median(rest[~inside]))
    # Notes of a fill are alike because it rushes.
    offset = offset_of(rest[inside], wanders=False)
    early = Offset(size_ms=offset.size_ms - outside, error_ms=offset.error_ms, count=offset.count)
    middles = robust_by_group(number[inside], rest[inside] - outside).median
    most_are = float(np.mean(middles <= early.size_ms / 2.0)) >= EARLY_SHARE
    return early if early.size_ms <= -FILL_MS and early.is_sure and most_are else None


def _rush(tick: Ints, number: Ints, rest: Floats) -> Floats:
    """How early each note of a fill is by the straight line along which fills rush, and never late; 0 outside."""
    inside = number >= 0
    begins = np.zeros(len(tick), dtype=np.int64)
    for each in np.unique(number[inside]):
        begins[number == each] = tick[number == each].min()
    into = (tick - begins)[inside].astype(np.float64)
    degree = 1 if len(np.unique(into)) > 1 else 0
    line = np.polyval(np.polyfit(into, rest[inside] - float(np.median(rest[~inside])), degree), into)
    apart = np.zeros(len(tick))
    apart[inside] = np.minimum(0.0, line)
    return apart


def _is_all_through(bar: Ints, off: Floats, size_ms: float) -> bool:
    """Is a voice off in at least half of the bars in which it is?"""
    middles = robust_by_group(bar, off).median
    return float(np.mean(middles * np.sign(size_ms) >= abs(size_ms) / 2.0)) >= ALL_THROUGH_SHARE


def _lanes(
    lane: Ints, rest: Floats, bias_ms: float, *, bar: Ints, outside: NDArray[np.bool_]
) -> dict[int, Offset]:
    """Lanes off from where the others are: of two, from the one that is nearer to the click. What is off in fills alone,
    or in less than half of its bars, is not the lane's doing."""
    offsets = {
        number: offset_of(rest[(lane == number) & outside])
        for number in sorted(set(lane.tolist()))
        if int(((lane == number) & outside).sum()) >= MIN_NOTES
    }
    if len(offsets) < 2:
        return {}
    sizes = np.array([offset.size_ms for offset in offsets.values()])
    nearest = float(sizes[np.argmin(np.abs(sizes + bias_ms))])
    middle = nearest if len(sizes) == 2 else _agreed(sizes, nearest)
    reported = {}
    for number, offset in offsets.items():
        off = offset.size_ms - middle
        spread = robust_spread(rest[lane == number])
        own = Offset(size_ms=off, error_ms=offset.error_ms, count=offset.count)
        at = lane == number
        if (
            abs(off) >= max(APART_MS, LANE_SPREADS * spread)
            and own.is_sure
            and _is_all_through(bar[at], rest[at] - middle, off)
        ):
            reported[number] = own
    return reported


def _agreed(sizes: Floats, nearest: float) -> float:
    """The middle of the most lanes that are together; of as many those nearest to the click."""
    near = np.abs(sizes[:, None] - sizes[None, :]) <= AGREE_MS
    count = near.sum(axis=1)
    best = np.flatnonzero(count == count.max())
    middles = [float(np.median(sizes[near[k]])) for k in best.tolist()]
    return min(middles, key=lambda middle: abs(middle - nearest))


def _place_in_chord(part: Part, target: Ints, *, by_hand: bool = True) -> Floats:
    """For each link how many notes of its chord, or of its hand's, lie below it."""
    hand, tick, pitch = part.hand_numbers[target], part.onset_ticks[target], part.pitches[target]
    key = tick * len(HANDS) + (hand if by_hand else 0)
    order = np.lexsort((pitch, key))
    first = np.concatenate(([True], np.diff(key[order]) != 0)) if len(key) else np.zeros(0, dtype=bool)
    begins = np.maximum.accumulate(np.where(first, np.arange(len(key)), 0))
    place = np.zeros(len(key))
    place[order] = np.arange(len(key)) - begins
    return place


def _roll(part: Part, target: Ints, rest: Floats) -> Offset | None:
    """How much later each note of a hand's chord is than the one below it."""
    place = _place_in_chord(part, target)
    hand, tick = part.hand_numbers[target], part.onset_ticks[target]
    order = np.lexsort((place, hand, tick))
    same = (np.diff(tick[order]) == 0) & (np.diff(hand[order]) == 0) & (np.diff(place[order]) == 1)
    steps = np.diff(rest[order])[same]
    if len(steps) < MIN_NOTES:
        return None
    offset = offset_of(steps)
    return offset if abs(offset.size_ms) >= ROLL_MS and offset.is_sure else None


def _hand(hand: Ints, rest: Floats, *, bar: Ints) -> tuple[Hand | None, Offset | None]:
    """The later hand, and by how much."""
    by = {side: rest[hand == HANDS.index(side)] for side in (Hand.LEFT, Hand.RIGHT)}
    if min(len(values) for values in by.values()) < MIN_NOTES:
        return None, None
    left, right = offset_of(by[Hand.LEFT]), offset_of(by[Hand.RIGHT])
    gap = left.size_ms - right.size_ms
    offset = Offset(
        size_ms=abs(gap),
        error_ms=float(np.hypot(left.error_ms, right.error_ms)),
        count=min(left.count, right.count),
    )
    if offset.size_ms < HAND_MS or not offset.is_sure:
        return None, None
    late, other = (Hand.LEFT, right) if gap > 0 else (Hand.RIGHT, left)
    at = hand == HANDS.index(late)
    is_all_through = _is_all_through(bar[at], rest[at] - other.size_ms, offset.size_ms)
    return (late, offset) if is_all_through else (None, None)
