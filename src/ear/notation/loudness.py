"""Velocities as a musician writes them: f and p, crescendo and diminuendo.

The beats' mean velocities are cut into stretches that stay and stretches that rise or fall evenly, by least squares with a
price for each stretch (R. Bellman, "On the approximation of curves by line segments using dynamic programming", Comm. ACM
4 (6), 1961, 284). What a place in the bar alone makes stronger is left out before. So a pattern of accents, or one beat
that stands out, is no change of loudness. Nothing of this is stored: whoever changes velocities changes the signs, and
whoever sets a sign sets velocities.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.notes import Part
from ear.notes.loudness import PLAIN_SIGN, sign_of

Floats = NDArray[np.float64]
SCATTER = 7.0
"""Velocity steps by which beats of one loudness differ."""
STAY_PRICE, MOVE_PRICE = 9.0, 14.0
"""Of a stretch, in squared scatters: a new one must explain so much."""
GOES_ON_STEPS = 20.0
"""A crescendo that begins so near to where the music was goes on from there."""
MIN_ALIKE = 3
"""Bars in which a place must be played for its accent to be known."""
MIN_MOVE_STEPS, MIN_MOVE_BEATS = 16.0, 3
"""A crescendo is so much at least, over so many beats."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LoudnessSign:
    """From a tick on it is so loud."""

    tick: int
    sign: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Hairpin:
    """Louder or softer, evenly, from one tick to another."""

    start_tick: int
    end_tick: int
    is_rising: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Loudness:
    """What stands under the notes, in order of ticks."""

    signs: tuple[LoudnessSign, ...] = ()
    hairpins: tuple[Hairpin, ...] = ()


@dataclass(frozen=True, slots=True)
class _Stretch:
    first: int
    last: int
    """Beats, both included."""
    start: float
    end: float
    """Velocities at its first and its last beat."""


def loudness_of(part: Part) -> Loudness:
    """Return the signs and hairpins of a part. A part that is mezzo forte throughout needs none."""
    if not part.notes:
        return Loudness()
    beats, strengths = _by_beat(part)
    signs: list[LoudnessSign] = []
    hairpins: list[Hairpin] = []

    stretches = _stretches(beats.astype(np.float64), strengths)
    for k, stretch in enumerate(stretches):
        start, end = int(beats[stretch.first]), int(beats[stretch.last])
        sign = sign_of(stretch.start)
        comes_from_hairpin = bool(hairpins) and hairpins[-1].end_tick == int(beats[stretch.first - 1])
        # A crescendo that begins where the music is needs no sign of its own.
        goes_on = (
            k > 0
            and stretch.start != stretch.end
            and abs(stretch.start - stretches[k - 1].end) < GOES_ON_STEPS
        )
        if not signs or ((signs[-1].sign != sign or comes_from_hairpin) and not goes_on):
            signs.append(LoudnessSign(tick=start, sign=sign))
        if stretch.start != stretch.end:
            is_rising = stretch.end > stretch.start
            hairpins.append(Hairpin(start_tick=start, end_tick=end, is_rising=is_rising))
            after = stretches[k + 1].start if k + 1 < len(stretches) else None
            # What follows says where it leads, unless it turns back.
            if after is None or (
                after > stretch.end + SCATTER if not is_rising else after < stretch.end - SCATTER
            ):
                signs.append(LoudnessSign(tick=end, sign=sign_of(stretch.end)))
    if len(signs) == 1 and not hairpins and signs[0].sign == PLAIN_SIGN:
        return Loudness()
    return Loudness(signs=tuple(signs), hairpins=tuple(hairpins))


def _by_beat(part: Part) -> tuple[NDArray[np.int64], Floats]:
    """Ticks of the first notes of beats in which any begin, and the mean velocities of those beats."""
    beat_ticks = np.array([part.meters.bar_at(n.onset_tick).meter.beat_ticks for n in part.notes])
    starts = part.bar_starts[part.bar_index_of_note]
    beat = starts + (part.onset_ticks - starts) // beat_ticks * beat_ticks
    _, first, number, count = np.unique(beat, return_index=True, return_inverse=True, return_counts=True)
    strengths = np.bincount(number, part.velocities) / count
    return part.onset_ticks[first], _without_accents(
        strengths, part.bar_of_note[first], (beat - starts)[first]
    )


def _without_accents(strengths: Floats, bar: NDArray[np.int64], into: NDArray[np.int64]) -> Floats:
    """Strengths of beats without what their place in the bar alone makes of them, bar for bar: the middle deviation of
    a place from the middle of its bar."""
    numbers, index = np.unique(bar, return_inverse=True)
    off = strengths - np.array([np.median(strengths[bar == number]) for number in numbers])[index]
    evened = strengths.copy()
    for place in np.unique(into):
        here = into == place
        if here.sum() >= MIN_ALIKE:
            evened[here] -= np.median(off[here])
    return evened


def _stretches(at: Floats, strength: Floats) -> list[_Stretch]:
    """The cheapest way to cut the beats into stretches."""
    count = len(at)

    def sums(values: Floats) -> Floats:
        return np.concatenate(([0.0], np.cumsum(values)))

    # Counted from the first beat, in thousands of ticks, so that squares stay small.
    x = (at - at[0]) / 1000.0
    n_, sx, sy, sxx, sxy, syy = (
        sums(v) for v in (np.ones(count), x, strength, x * x, x * strength, strength**2)
    )
    cheapest = np.full(count + 1, np.inf)
    cheapest[0] = 0.0
    came = np.zeros(count + 1, dtype=np.int64)
    moves = np.zeros(count + 1, dtype=bool)
    for end in range(1, count + 1):
        start = np.arange(end)
        n, dx, dy = n_[end] - n_[start], sx[end] - sx[start], sy[end] - sy[start]
        dxx, dxy, dyy = sxx[end] - sxx[start], sxy[end] - sxy[start], syy[end] - syy[start]
        around = np.maximum(0.0, dyy - dy * dy / n)
        stay = around / SCATTER**2 + STAY_PRICE
        spread = dxx - dx * dx / n
        together = dxy - dx * dy / n
        slope = np.divide(together, spread, out=np.zeros(end), where=spread > 1e-12)
        rise = np.abs(slope) * (x[end - 1] - x[start])
        is_move = (n >= MIN_MOVE_BEATS) & (rise >= MIN_MOVE_STEPS)
        move = np.where(is_move, np.maximum(0.0, around - slope * together) / SCATTER**2 + MOVE_PRICE, np.inf)
        cost = cheapest[start] + np.minimum(stay, move)
        best = int(cost.argmin())
        cheapest[end], came[end], moves[end] = cost[best], best, move[best] < stay[best]
    stretches: list[_Stretch] = []
    end = count
    while end:
        begin = int(came[end])
        inside, there = strength[begin:end], x[begin:end]
        if moves[end]:
            slope, middle = np.polyfit(there - there[0], inside, 1)
            low, high = inside.min(), inside.max()
            # No louder than anything in it, and no softer.
            first = float(np.clip(middle, low, high))
            last = float(np.clip(middle + slope * (there[-1] - there[0]), low, high))
        else:
            first = last = float(inside.mean())
        stretches.append(_Stretch(begin, end - 1, first, last))
        end = begin
    return stretches[::-1]
