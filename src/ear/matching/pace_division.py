"""Divide a run into stretches of one tempo, or of one that bends: the first step of `pace_fit.py`, by dynamic programming."""

from dataclasses import dataclass

import numpy as np

from ear.matching.grid import Floats, Ints

PIECES = 240
"""Pieces of a run among which stretches are divided; in longer ones neighbouring moments are one piece."""
STRETCH_PRICE, BEND_PRICE = 30.0, 12.0
"""Squared spreads that a stretch must gain, and one that bends more than that."""
MIN_SPREAD_S = 0.03
"""A pace that is so near everywhere is near enough."""
STRAY_SPREADS = 2.5
ASTRAY_SPREADS = 1.8
"""Of the least of three distances from lines through two others to the spread of single moments: by simulation of steady
players."""
MIN_STEADY, MIN_BENT = 3, 5
"""Pieces that a stretch has at least."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """Moments by index, with what sort of stretch they are."""

    first: int
    after: int
    is_bent: bool


def divide(x: Floats, t: Floats) -> list[Span]:
    """Return the cheapest division of a run into steady and bent stretches.

    `x` are seconds of the click, `t` the seconds played; both have shape (m,), x ascending.
    """
    count = len(x)
    if count < 2 * MIN_STEADY:
        return [Span(first=0, after=count, is_bent=False)]
    # Dividing at every moment would be quadratic in the notes; a limited number of possible borders keeps
    # the time bounded.
    edges = np.unique(np.linspace(0, count, min(count, PIECES) + 1).round().astype(np.int64))
    slope = (t[-1] - t[0]) / (x[-1] - x[0])
    late = t - t[0] - slope * (x - x[0])
    # Wrong links lie far from their neighbours. They weigh less, so that one of them does not buy a stretch
    # of its own.
    away = _astray(x, late)
    spread = max(MIN_SPREAD_S, ASTRAY_SPREADS * float(np.median(away)))
    weight = np.minimum(1.0, STRAY_SPREADS * spread / np.maximum(away, 1e-9))
    # Scaling to -1..1 keeps the fourth powers in the sums well conditioned.
    sums = _sums(2.0 * (x - x[0]) / (x[-1] - x[0]) - 1.0, late / spread, weight, edges)
    pieces = len(edges) - 1
    least = np.full(pieces + 1, np.inf)
    least[0] = 0.0
    before, bent = np.zeros(pieces + 1, dtype=np.int64), np.zeros(pieces + 1, dtype=bool)
    # Dynamic programming over the borders: the cheapest division that ends here extends the cheapest one
    # that ended earlier.
    for end in range(MIN_STEADY, pieces + 1):
        begins = np.arange(end - MIN_STEADY + 1)
        line, parabola = _rests(sums[:, end][:, None] - sums[:, begins])
        # A bend needs enough moments to be told from an uneven straight stretch, and costs more.
        parabola = np.where(end - begins >= MIN_BENT, parabola + BEND_PRICE, np.inf)
        cost = least[begins] + np.minimum(line, parabola) + STRETCH_PRICE
        k = int(np.argmin(cost))
        least[end], before[end], bent[end] = cost[k], k, parabola[k] < line[k]
    spans, end = [], pieces
    while end > 0:
        start = int(before[end])
        spans.append(Span(first=int(edges[start]), after=int(edges[end]), is_bent=bool(bent[end])))
        end = start
    return spans[::-1]


def _astray(x: Floats, late: Floats) -> Floats:
    """How far each moment is from where the two before it, or the two behind it, or those beside it have it: the least of
    them, so that a bend of the tempo puts nobody astray; (m,), m >= 4."""

    def off(at: Ints, middle: Ints, other: Ints) -> Floats:
        share = (x[at] - x[middle]) / (x[other] - x[middle])
        away = np.full(len(x), np.inf)
        away[at] = np.abs(late[at] - late[middle] - share * (late[other] - late[middle]))
        return away

    every = np.arange(len(x))
    distances: Floats = np.minimum(
        np.minimum(off(every[2:], every[:-2], every[1:-1]), off(every[:-2], every[2:], every[1:-1])),
        off(every[1:-1], every[:-2], every[2:]),
    )
    return distances


def _sums(x: Floats, y: Floats, weight: Floats, edges: Ints) -> Floats:
    """(9, edges) running sums of the products that lines and parabolas are fitted from."""
    squares = x * x
    rows = [np.ones_like(x), x, squares, squares * x, squares * squares, y, x * y, squares * y, y * y]
    along = np.cumsum(np.stack(rows) * weight, axis=1)
    sums: Floats = np.concatenate((np.zeros((9, 1)), along), axis=1)[:, edges]
    return sums


def _rests(sums: Floats) -> tuple[Floats, Floats]:
    """Squared rests of the best line and of the best parabola; sums: (9, k), of each stretch."""
    n, x, xx, xxx, xxxx, y, xy, xxy, yy = sums
    middle = x / n
    # About the stretch's own middle, where the sums do not cancel.
    c2 = xx - n * middle**2
    c3 = xxx - 3 * middle * xx + 3 * middle**2 * x - n * middle**3
    c4 = xxxx - 4 * middle * xxx + 6 * middle**2 * xx - 4 * middle**3 * x + n * middle**4
    d1 = xy - middle * y
    d2 = xxy - 2 * middle * xy + middle**2 * y
    d0 = yy - y * y / n
    safe = np.maximum(c2, 1e-12)
    line = np.maximum(d0 - d1 * d1 / safe, 0.0)
    # What of the square is left when the line is taken out of it.
    bend = d2 - c2 * y / n - c3 * d1 / safe
    left = c4 - c2 * c2 / n - c3 * c3 / safe
    parabola = np.maximum(line - np.where(left > 1e-9, bend * bend / np.maximum(left, 1e-9), 0.0), 0.0)
    return line, parabola
