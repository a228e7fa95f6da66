"""The pace that linked notes show: as few stretches as they call for.

**Model.** Within a run (no jump) a moment is played at level + the sum of what each second of the click lasts up to there;
that is one value for a steady stretch, and changes evenly over one in which the player slows down or speeds up. Each
stretch has a price, so that one more must make the rest smaller by more than that.

**Method.** For each run the cheapest division into stretches by dynamic programming (Bellman, "On the approximation of
curves by line segments using dynamic programming", Comm. ACM 4, 1961), straight lines and parabolas fitted from running
sums; strays weigh less. Neighbours whose tempo differs by less than a listener hears are joined. Last, all stretches and
levels are fitted together, so that time goes on without a break within a run, by least absolute deviations (re-weighted
least squares: Schlossmacher, JASA 68, 1973). Time: O(pieces^2) for the division (`pace_division.py`), else O(notes).

What bends by less than `BEND_FROM_S` is one tempo, and a tempo near the click's is the click's: what is left is drift.
"""

from dataclasses import dataclass

import numpy as np

from ear.matching.clock import CLICK, PlayerClock
from ear.matching.fit import fit_lines, running_median
from ear.matching.following import MAX_SLOW, MIN_SLOW
from ear.matching.grid import Floats, Ints
from ear.matching.pace import Sums
from ear.matching.pace_division import MIN_SPREAD_S, MIN_STEADY, STRETCH_PRICE, Span, divide

BEND_FROM_S = 0.07
"""Whoever is never further from one tempo than this, over `SMOOTH` moments, keeps it."""
SMOOTH = 9
HEARD = 0.035
"""Change of a tempo, as a share of it, below which nobody hears one."""
NEAR_CLICK = 0.02
"""A tempo within 2% of the click's is drift, not another tempo;"""
CLICK_ERRORS = 4.0
"""neither is one that lies within so many standard errors: a few notes prove no tempo."""
EDGE_REACH, EDGE_SLACK_S = 3, 0.1
"""Moments about a stretch's first among which its true beginning is looked for."""
KNOT_S = 0.5
"""A tempo that changes is straight over so long."""
TOUCH_S = 1e-3
ROUNDS = 8
MIN_SCALE_S = 0.002
FEW = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class PacePiece:
    """A stretch as it is fitted: seconds of the click where it begins and ends, what a second lasts at both."""

    first_s: float
    last_s: float
    first: float
    last: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FittedPace:
    """Pieces in order, and for each run the seconds by which it is later than their sum."""

    pieces: tuple[PacePiece, ...]
    level_s: Floats
    """(runs,)"""


def fit_pace(written_s: Floats, played_s: Floats, run: Ints, *, runs: int) -> FittedPace:
    """Return the pace and the level of each run that explain played times best.

    `written_s`, `played_s` and `run` have shape (n,), n >= 1, `written_s` ascending. Every run in 0..runs-1 has
    a note, ascending.
    """
    lines = fit_lines(written_s, played_s, run, runs=runs)
    # First one line through everything: what is left of it shows whether the tempo bends.
    rest = played_s - lines.slope * written_s - lines.level[run]
    if len(written_s) < FEW or not MIN_SLOW < lines.slope < MAX_SLOW:
        return _steady(1.0, _levels(written_s, played_s, run, runs=runs, slow=1.0))
    if _bends(rest):
        fitted = _in_stretches(written_s, played_s, run, runs=runs)
        if fitted is not None:
            return fitted
    # A tempo that differs from the click's by less than its own error is the click's: nobody chose it.
    error = max(NEAR_CLICK, CLICK_ERRORS * lines.slope_error)
    if abs(1.0 / lines.slope - 1.0) >= error:
        return _steady(lines.slope, lines.level)
    if runs == 1:
        # What drifts is as late as it was when the music began.
        return _steady(1.0, lines.level)
    return _steady(1.0, _levels(written_s, played_s, run, runs=runs, slow=1.0))


def _levels(x: Floats, t: Floats, run: Ints, *, runs: int, slow: float) -> Floats:
    return np.array([np.median((t - slow * x)[run == r]) for r in range(runs)])


def _steady(slow: float, level: Floats) -> FittedPace:
    return FittedPace(pieces=(PacePiece(first_s=0.0, last_s=1.0, first=slow, last=slow),), level_s=level)


def _bends(rest: Floats) -> bool:
    return float(np.abs(running_median(rest, SMOOTH // 2)).max()) > BEND_FROM_S


@dataclass(frozen=True, slots=True, kw_only=True)
class _Moments:
    """Notes that are written together as one: seconds of the click, middle of the seconds played, run; all (m,)."""

    x: Floats
    t: Floats
    run: Ints

    @classmethod
    def of(cls, written_s: Floats, played_s: Floats, run: Ints) -> "_Moments":
        begins = np.flatnonzero(
            (np.diff(written_s, prepend=-np.inf) > 1e-6) | (np.diff(run, prepend=-1) != 0)
        )
        ends = np.append(begins[1:], len(written_s))
        middle = [
            float(np.median(played_s[a:b])) for a, b in zip(begins.tolist(), ends.tolist(), strict=True)
        ]
        return cls(x=written_s[begins], t=np.array(middle), run=run[begins])


def _in_stretches(written_s: Floats, played_s: Floats, run: Ints, *, runs: int) -> FittedPace | None:
    """None where one steady stretch is all that is called for."""
    moments = _Moments.of(written_s, played_s, run)
    spans: list[Span] = []
    for r in range(runs):
        here = np.flatnonzero(moments.run == r)
        first = int(here[0])
        spans += [
            Span(first=first + s.first, after=first + s.after, is_bent=s.is_bent)
            for s in divide(moments.x[here], moments.t[here])
        ]
    fitted = None
    while len(spans) > 1 or spans[0].is_bent:
        fitted = _together(moments, spans, runs=runs)
        joined = _joined(moments, spans, fitted.pieces)
        if joined is None:
            break
        spans, fitted = joined, None
    if fitted is None:
        return None
    return _near_click(moments, spans, fitted, runs=runs)


def _together(moments: _Moments, spans: list[Span], *, runs: int, held: tuple[int, ...] = ()) -> FittedPace:
    """All stretches and levels at once. Stretches named in `held` are at the click's tempo."""
    edges = np.array([_edge(moments, spans, k) for k in range(len(spans) + 1)])
    # Each stretch adds a column that rises only inside it, so that one linear fit makes stretches meet
    # without a gap.
    columns: list[Floats] = []
    owner: list[tuple[int, bool]] = []
    fixed = np.zeros(len(moments.x))
    for k, span in enumerate(spans):
        length = max(1e-9, edges[k + 1] - edges[k])
        # Before the first stretch and behind the last, the tempo is as at that end.
        into = moments.x - edges[k]
        low, high = (-np.inf if k == 0 else 0.0), (np.inf if k == len(spans) - 1 else length)
        inside = np.clip(into, low, high)
        if k in held:
            fixed += inside
        elif span.is_bent:
            core = np.clip(inside, 0.0, length)
            # Two columns for a bend: slowness falls from the first to the last value, and their integral is
            # a parabola.
            square = core * core / (2.0 * length)
            columns += [core - square + np.minimum(inside, 0.0), square + np.maximum(inside - length, 0.0)]
            owner += [(k, False), (k, True)]
        else:
            columns.append(inside)
            owner.append((k, False))
    levels = (moments.run[:, None] == np.arange(runs)[None, :]).astype(np.float64)
    design = np.concatenate((np.stack(columns, axis=1), levels), axis=1) if columns else levels
    y = moments.t - fixed
    weight = np.ones(len(y))
    solution = np.zeros(design.shape[1])
    # Least absolute deviations by re-weighted least squares: outliers lose their pull, and ROUNDS is enough
    # for it to settle.
    for _ in range(ROUNDS):
        root = np.sqrt(weight)
        solution = np.linalg.lstsq(design * root[:, None], y * root, rcond=None)[0]
        weight = 1.0 / np.maximum(np.abs(y - design @ solution), MIN_SCALE_S)
    slow = np.ones((len(spans), 2))
    for (k, is_end), value in zip(
        owner, np.clip(solution[: len(owner)], MIN_SLOW, MAX_SLOW).tolist(), strict=True
    ):
        slow[k, int(is_end) :] = value
    pieces = tuple(
        PacePiece(
            first_s=float(edges[k]),
            last_s=float(edges[k + 1]),
            first=float(slow[k, 0]),
            last=float(slow[k, 1]),
        )
        for k in range(len(spans))
    )
    # From the downbeat of bar 1, not from where the first stretch begins.
    return FittedPace(pieces=pieces, level_s=solution[len(owner) :] - edges[0] * slow[0, 0])


def _edge(moments: _Moments, spans: list[Span], k: int) -> float:
    """Where stretch k begins: the moment by which its line meets that of the stretch before, if that is one of those
    about its first; else its first."""
    if k == len(spans):
        return float(moments.x[-1])
    first = spans[k].first
    if k == 0:
        return float(moments.x[0])
    before, after = (_line(moments, spans[n]) for n in (k - 1, k))
    if before is None or after is None or abs(after[0] - before[0]) < 1e-6:
        return float(moments.x[first])
    # The border found on the grid is only near: the lines of both stretches meet at the exact place.
    meet = (before[1] - after[1]) / (after[0] - before[0])
    low, high = max(spans[k - 1].first + 1, first - EDGE_REACH), min(spans[k].after - 1, first + EDGE_REACH)
    near = moments.x[low : high + 1]
    if not len(near) or not near[0] - EDGE_SLACK_S <= meet <= near[-1] + EDGE_SLACK_S:
        return float(moments.x[first])
    return float(near[np.argmin(np.abs(near - meet))])


def _line(moments: _Moments, span: Span) -> tuple[float, float] | None:
    """Slope and level of a steady stretch away from its ends; None for others."""
    ends = 1 if span.after - span.first > 2 * MIN_STEADY else 0
    inside = slice(span.first + ends, span.after - ends)
    if span.is_bent or span.after - span.first < 2:
        return None
    slope, level = np.polyfit(moments.x[inside], moments.t[inside], 1).tolist()
    return slope, level


def _joined(moments: _Moments, spans: list[Span], pieces: tuple[PacePiece, ...]) -> list[Span] | None:
    """With the two steady neighbours joined that differ least, by less than is heard, or, on both sides of a jump, by less
    than pays for a stretch; None where there are none. A bend that nobody hears is straight."""
    for k, (span, piece) in enumerate(zip(spans, pieces, strict=True)):
        if span.is_bent and abs(piece.last / piece.first - 1.0) < HEARD:
            return [*spans[:k], Span(first=span.first, after=span.after, is_bent=False), *spans[k + 1 :]]
    # The most alike neighbours are joined first, so that a chain of small differences does not hide a large
    # one.
    differ = [
        abs(b.first / a.last - 1.0)
        if not (one.is_bent or other.is_bent) and _is_one(moments, one, other, a, b)
        else np.inf
        for a, b, one, other in zip(pieces, pieces[1:], spans, spans[1:], strict=False)
    ]
    if not differ or min(differ) == np.inf:
        return None
    k = int(np.argmin(differ))
    whole = Span(first=spans[k].first, after=spans[k + 1].after, is_bent=False)
    return [*spans[:k], whole, *spans[k + 2 :]]


def _is_one(moments: _Moments, span: Span, other: Span, a: PacePiece, b: PacePiece) -> bool:
    if abs(b.first / a.last - 1.0) < HEARD:
        return True
    if moments.run[span.after - 1] == moments.run[other.first]:
        return False
    extent = [
        float(np.square(x - x.mean()).sum()) for x in (moments.x[s.first : s.after] for s in (span, other))
    ]
    # By so much the squared rests grow where both have one slope.
    grows = (b.first - a.last) ** 2 * extent[0] * extent[1] / max(1e-9, sum(extent))
    return grows < STRETCH_PRICE * MIN_SPREAD_S**2


def _near_click(moments: _Moments, spans: list[Span], fitted: FittedPace, *, runs: int) -> FittedPace:
    """With steady stretches at the click's tempo where they are near it."""
    held = tuple(
        k
        for k, (span, piece) in enumerate(zip(spans, fitted.pieces, strict=True))
        if not span.is_bent and abs(1.0 / piece.first - 1.0) < NEAR_CLICK
    )
    return _together(moments, spans, runs=runs, held=held) if held else fitted


def clock_at_pace(
    fitted: FittedPace, written_s: Floats, run: Ints, *, quarters_per_second: float
) -> PlayerClock:
    """Return a fitted pace as the player's clock.

    `written_s` and `run` have shape (n,), as they were fitted. Between runs the clock goes on at the mean of
    the tempos on both sides.
    """
    pieces = fitted.pieces
    if len(pieces) == 1 and pieces[0].first == pieces[0].last:
        return CLICK if pieces[0].first == 1.0 else PlayerClock.steady(1.0 / pieces[0].first)
    edges = np.array([p.first_s for p in pieces] + [pieces[-1].last_s])
    pace = Sums(
        edges_s=edges, first=np.array([p.first for p in pieces]), last=np.array([p.last for p in pieces])
    )
    take_s: list[float] = []
    own_s: list[float] = []
    before = 1.0
    for number, level in enumerate(fitted.level_s.tolist()):
        here = written_s[run == number]
        fine = np.linspace(here[0], here[-1], int((here[-1] - here[0]) / KNOT_S) + 2)
        fine = np.unique(np.concatenate((fine, edges[(edges > here[0]) & (edges < here[-1])])))
        at, slow = pace.at(fine) + level, pace.slowness(fine)
        begins = float(at[0]) / float(slow[0])
        if take_s:
            # The take goes on, whatever two runs that touch say.
            at += max(0.0, take_s[-1] + TOUCH_S - float(at[0]))
            begins = own_s[-1] + (float(at[0]) - take_s[-1]) / float(np.sqrt(before * slow[0]))
        take_s += at.tolist()
        own_s += (begins + fine - fine[0]).tolist()
        before = float(slow[-1])
    first, last = pace.slowness(written_s[[0, -1]]).tolist()
    return PlayerClock(
        take=np.array([take_s[0] - first, *take_s, take_s[-1] + last]) * quarters_per_second,
        own=np.array([own_s[0] - 1.0, *own_s, own_s[-1] + 1.0]) * quarters_per_second,
        changes=len(pieces),
    )
