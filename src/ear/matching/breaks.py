"""Short stops that a path went along with: a listener hears that the music stood still, though every note is in reach.

The search pays for each jump in notes, so that it creeps over a short stop, and reads a stop before each bar as a slower
tempo. Once notes are linked, the intervals between them tell: one that is far longer than written, between others that
are not, is a stop. What is long in a row is a tempo that changes, and left alone.
"""

from dataclasses import replace

import numpy as np

from ear.matching.fit import robust_spread
from ear.matching.grid import Floats, Ints
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT

MIN_MOMENTS = 8
"""Fewer intervals do not tell how steady a player is."""
BREAK_S, BREAK_SPREADS = 0.1, 4.5
"""An interval is a stop if it is so much longer than written, and so many times the spread of all."""
BESIDE = 4
"""Moments on each side from which it is told that time stayed behind: by the means of both halves of them, so that two notes
of a swung beat, or some that are late by themselves, are no stop."""
STAYS_SHARE = 0.65
"""Of the stop that those are later by."""
MAX_STOPS_SHARE = 0.3
"""Of all intervals: what is longer every second or third time is a rhythm, played otherwise than written."""
ALONE_SHARE = 0.5
"""Intervals beside a stop are longer than written by less than this share of it."""


def with_breaks(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """Return the hypothesis with its runs divided at short stops; the same one where there are none."""
    linked = matcher.linked(best)
    if not linked.runs:
        return best
    moment, first = np.unique(matcher.note_moment[linked.target], return_index=True)
    if len(moment) < MIN_MOMENTS:
        return best
    take_s = matcher.take_s[best.links.take_of[linked.target]]
    played = np.add.reduceat(take_s, first) / np.diff(first, append=len(take_s))
    written = matcher.moments[moment] * matcher.seconds_per_quarter
    stops = breaks_between(written, played, linked.run[first])
    if not len(stops):
        return best
    run = best.path.run.copy()
    for at in stops.tolist():
        run[moment[at] :][run[moment[at] :] >= 0] += 1
    return replace(best, path=replace(best.path, run=run))


def with_first_struck(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """Return the hypothesis in which a note that was struck in its place, and once more before a stop, is the first of the
    two: the second is what the player stopped for.

    It changes the links of the hypothesis; the run of such a note becomes the one before.
    """
    links, run = best.links, best.path.run.copy()
    alone = np.bincount(matcher.note_moment)[matcher.note_moment] == 1
    for i in (np.flatnonzero(np.diff(run) > 0) + 1).tolist():
        is_first = i + 1 < len(run) and run[i + 1] == run[i] and run[i - 1] >= 0
        if not (is_first and alone[i - 1 : i + 2].all() and (links.take_of[i - 1 : i + 1] != ABSENT).all()):
            continue
        before, second = links.take_of[i - 1 : i + 1].tolist()
        between = np.flatnonzero(links.target_of[before + 1 : second] == ABSENT) + before + 1
        if len(between) != 1 or matcher.played.pitch[between[0]] != matcher.played.pitch[second]:
            continue
        written = matcher.moments[matcher.note_moment[i - 1 : i + 1]]
        expected_s = matcher.take_s[before] + float(np.diff(written)[0]) * matcher.seconds_per_quarter
        if abs(matcher.take_s[between[0]] - expected_s) < BREAK_S:
            links.target_of[second] = ABSENT
            links.link(i, int(between[0]))
            run[i] = run[i - 1]
    return replace(best, path=replace(best.path, run=run))


def breaks_between(written_s: Floats, played_s: Floats, run: Ints) -> Ints:
    """Return the moments before which time stood still; all have shape (n,), times ascending in seconds.

    Where a new run begins a jump is known already.
    """
    inside = np.diff(run) == 0
    gaps, longer = np.diff(written_s), np.diff(played_s)
    if inside.sum() < MIN_MOMENTS:
        return np.zeros(0, dtype=np.int64)
    slow = float(np.median(longer[inside] / gaps[inside]))
    rest = np.where(inside, longer - slow * gaps, 0.0)
    spread = robust_spread(rest[inside])
    least = max(BREAK_S, BREAK_SPREADS * spread)
    candidates = np.flatnonzero(rest >= least)
    if not len(candidates):
        return candidates
    level = np.concatenate(([0.0], np.cumsum(rest)))
    stops = []
    for k in candidates.tolist():
        before, after = level[max(0, k + 1 - BESIDE) : k + 1], level[k + 1 : k + 1 + BESIDE]
        beside = np.concatenate((rest[max(0, k - 1) : k], rest[k + 1 : k + 2]))
        stays = all(
            half.mean() - before.mean() >= STAYS_SHARE * rest[k]
            for half in (after[: BESIDE // 2], after[BESIDE // 2 :])
            if len(half)
        )
        if stays and (beside < ALONE_SHARE * rest[k]).all():
            stops.append(k + 1)
    is_rhythm = len(stops) > MAX_STOPS_SHARE * int(inside.sum())
    return np.array([] if is_rhythm else stops, dtype=np.int64)
