"""A take without a click whose tempo bends evenly: the bend is found by the order of its notes, and taken out.

Notes are paired by the longest common subsequence of pitches (Hunt and Szymanski, "A fast algorithm for computing longest
common subsequences", Comm. ACM 20, 1977; here by rows of the table). A parabola through the pairs' onsets is the player's
time where it fits clearly better than a straight line: fitted by least squares, strays left out in turn.
"""

from dataclasses import dataclass

import numpy as np

from ear.matching.grid import Floats
from ear.notes import Part, PedalSpan, Take
from ear.units import TICKS_PER_QUARTER

PAIRS_LEAST = 8
PAIRS_SHARE = 0.5
"""Of the notes of the shorter side that must come in order."""
CLEARLY = 4.0
"""The bend is so many of its own standard errors."""
BEND_LEAST = 0.04
"""Change of the tempo, as a share of it, below which nobody hears one."""
STRAY_SPREADS, ROUNDS = 3.0, 5
SPREAD_LEAST_S = 0.01
RATIO_LEAST, RATIO_MOST = 0.2, 3.5
GAPS_LEAST, SHORTEST_S = 4, 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnPace:
    """`take` at the player's mean tempo, so that milliseconds stay what they are; `ends` are his tempos at the first and
    at the last note over the one set."""

    take: Take
    ends: tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Bend:
    """When each place of the music comes, as a parabola: `curve` has its coefficients, the highest power first. Beyond
    `first` and `last`, the places between which it was found, the tempo stays as it is there."""

    curve: tuple[float, float, float]
    first: float
    last: float
    ends: tuple[float, float]
    """Places for each unit of time at the first and at the last place."""

    def places(self, at: Floats) -> Floats:
        """Which place of the music comes at each time; elementwise, rising with it."""
        slow, rate, start = self.curve
        inside = np.clip(at, np.polyval(self.curve, self.first), np.polyval(self.curve, self.last))
        root = np.sqrt(np.maximum(rate * rate - 4 * slow * (start - inside), 0.0))
        place = 2 * (inside - start) / (rate + root)
        beyond = (at - inside) * np.where(at < inside, self.ends[0], self.ends[1])
        found: Floats = place + beyond
        return found


def bent(curve: tuple[float, float, float], first: float, last: float) -> Bend | None:
    """None where the music would stand still, or go back, on the way."""
    slopes = [2 * curve[0] * place + curve[1] for place in (first, last)]
    if min(slopes) <= 0:
        return None
    return Bend(curve=curve, first=first, last=last, ends=(1.0 / slopes[0], 1.0 / slopes[1]))


def scatter(part: Part, take: Take) -> float | None:
    """By how much the gaps between notes that come in order scatter about those that are written, each over its own
    length: the robust spread of their logarithms. None where too few come in order."""
    pairs = _in_order(part.pitches, take.pitches)
    if len(pairs) < PAIRS_LEAST:
        return None
    ticks = part.onset_ticks[[i for i, _ in pairs]]
    _, first = np.unique(ticks, return_index=True)
    written = np.diff(part.tempos.even(ticks[first] / TICKS_PER_QUARTER))
    played = np.maximum(np.diff(take.onsets_s[[j for _, j in pairs]][first]), SHORTEST_S)
    if len(written) < GAPS_LEAST:
        return None
    ratios = np.log(played / written)
    return 1.4826 * float(np.median(np.abs(ratios - np.median(ratios))))


def own_pace(part: Part, take: Take) -> OwnPace | None:
    """None where the tempo is steady, or the take too little like the part to tell."""
    pairs = _in_order(part.pitches, take.pitches)
    if len(pairs) < max(PAIRS_LEAST, PAIRS_SHARE * min(len(part.notes), len(take.notes))):
        return None
    # By quarters of the first tempo, so that a written change of tempo is no bend.
    q = part.tempos.even(part.onset_ticks[[i for i, _ in pairs]] / TICKS_PER_QUARTER)
    per_second = part.tempos.first_bpm / 60.0
    t = take.onsets_s[[j for _, j in pairs]] * per_second
    middle = float(q.mean())
    found = _parabola(q - middle, t)
    if found is None:
        return None
    first, last = float(q.min()) - middle, float(q.max()) - middle
    bend = bent(found, first, last)
    if bend is None:
        return None
    ends = bend.ends
    is_known = min(ends) >= RATIO_LEAST and max(ends) <= RATIO_MOST
    if not is_known or abs(ends[1] / ends[0] - 1.0) < BEND_LEAST:
        return None
    ratio = (last - first) / float(np.polyval(found, last) - np.polyval(found, first))

    def straight(at_s: Floats) -> Floats:
        seconds: Floats = (bend.places(at_s * per_second) + middle) / ratio / per_second
        return seconds

    pedal = (
        PedalSpan(start_s=float(a), end_s=float(b))
        for a, b in (straight(np.array([p.start_s, p.end_s])) for p in take.pedal)
    )
    return OwnPace(take=take.at(straight(take.onsets_s).tolist(), pedal=pedal), ends=ends)


def _parabola(x: Floats, y: Floats) -> tuple[float, float, float] | None:
    """Coefficients of the parabola through (x, y), the highest power first; None where it bends no more than chance."""
    kept = np.ones(len(x), dtype=bool)
    curve = np.polyfit(x, y, 1)
    for round_ in range(ROUNDS):
        if len(set(x[kept].tolist())) < PAIRS_LEAST:
            return None
        curve = np.polyfit(x[kept], y[kept], 2)
        away = np.abs(y - np.polyval(curve, x))
        spread = max(SPREAD_LEAST_S, 1.4826 * float(np.median(away[kept])))
        still = away <= STRAY_SPREADS * spread
        if round_ and bool((still == kept).all()):
            break
        kept = still
    if kept.sum() < max(PAIRS_LEAST, PAIRS_SHARE * len(x)):
        return None
    inside = x[kept]
    design = np.stack([inside * inside, inside, np.ones_like(inside)], axis=1)
    left = y[kept] - design @ curve
    variance = max(SPREAD_LEAST_S**2, float(left @ left) / max(1, len(left) - 3))
    error = float(np.sqrt(variance * np.linalg.inv(design.T @ design)[0, 0]))
    if abs(float(curve[0])) < CLEARLY * error:
        return None
    return float(curve[0]), float(curve[1]), float(curve[2])


def _in_order(a: np.ndarray, b: np.ndarray) -> list[tuple[int, int]]:
    """The longest common subsequence as pairs of indices; of several, the one that ends last."""
    table = np.zeros((len(a) + 1, len(b) + 1), dtype=np.int32)
    for i, pitch in enumerate(a.tolist(), start=1):
        # Equal pitches lengthen what stands before both; the best of a row never falls along it.
        grown = np.maximum(table[i - 1, 1:], table[i - 1, :-1] + (b == pitch))
        table[i, 1:] = np.maximum.accumulate(grown)
    pairs, i, j = [], len(a), len(b)
    while i and j:
        if table[i, j] == table[i - 1, j]:
            i -= 1
        elif table[i, j] == table[i, j - 1]:
            j -= 1
        else:
            i, j = i - 1, j - 1
            pairs.append((i, j))
    return pairs[::-1]
