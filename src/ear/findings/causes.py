"""What of a take's timing one cause explains: a lane or a hand apart from the rest, chords that are rolled.

They are fitted in turn, the likeliest first, and each is taken out before the next is looked for: so one cause is told once,
by its own name, with what it leaves unsure.
"""

from dataclasses import dataclass

import numpy as np

from ear.measuring.figures import Floats, Ints, robust_spread
from ear.notes import HANDS, Hand, KitMap, Part

MIN_NOTES = 4
"""Notes, or pairs of notes, from which a cause is told."""
APART_MS, HAND_MS, ROLL_MS = 18.0, 20.0, 12.0
"""A lane, a hand, each note of a chord, off by so much at least;"""
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

    lanes: dict[int, Offset]
    late_hand: Hand | None
    hand: Offset | None
    roll: Offset | None
    rest_ms: Floats
    shift_ms: float


def offset_of(values: Floats) -> Offset:
    """Return the median of some deviations with its error, in ms. The values have shape (n,), n >= 1."""
    error = MEDIAN_ERROR * robust_spread(values) / np.sqrt(len(values)) if len(values) > 1 else np.inf
    return Offset(size_ms=float(np.median(values)), error_ms=float(error), count=len(values))


def causes_of(part: Part, target: Ints, steady_ms: Floats, bias_ms: float, *, kit: KitMap) -> Causes:
    """Return the causes that explain deviations: lanes, hands and places.

    `target` and `steady_ms` have shape (links,); `bias_ms` has been subtracted already.
    """
    rest = steady_ms.astype(np.float64).copy()
    lanes: dict[int, Offset] = {}
    late, hand, roll = None, None, None
    if part.instrument.has_lanes:
        lanes = _lanes(kit.folds[part.pitches[target]], rest, bias_ms)
        for lane, offset in lanes.items():
            rest[kit.folds[part.pitches[target]] == lane] -= offset.size_ms
    else:
        roll = _roll(part, target, rest)
        if roll is not None:
            # Rolled in each hand by itself, or through both.
            rolled = [rest - roll.size_ms * _place_in_chord(part, target, by_hand=by) for by in (True, False)]
            rest = min(rolled, key=robust_spread)
        late, hand = _hand(part.hand_numbers[target], rest)
        if late is not None and hand is not None:
            rest[part.hand_numbers[target] == HANDS.index(late)] -= hand.size_ms
    shift = float(np.median(rest)) if len(rest) else 0.0
    return Causes(lanes=lanes, late_hand=late, hand=hand, roll=roll, rest_ms=rest - shift, shift_ms=shift)


def _lanes(lane: Ints, rest: Floats, bias_ms: float) -> dict[int, Offset]:
    """Lanes off from where the others are: of two, from the one that is nearer to the click."""
    offsets = {
        number: offset_of(rest[lane == number])
        for number in sorted(set(lane.tolist()))
        if int((lane == number).sum()) >= MIN_NOTES
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
        if abs(off) >= max(APART_MS, LANE_SPREADS * spread) and own.is_sure:
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


def _hand(hand: Ints, rest: Floats) -> tuple[Hand | None, Offset | None]:
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
    return (Hand.LEFT if gap > 0 else Hand.RIGHT), offset
