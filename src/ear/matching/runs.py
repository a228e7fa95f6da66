"""A path as runs without a jump, and where between two runs the jump is settled.

The optimum leaves some jumps open: a passage that was played twice is explained by either
rendition, a bar that was left out among bars alike by any of them, and two places that lie near
each other can be joined by creep. What is said then is what a listener would say.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ear.matching.grid import JUMP_COST, Floats, Grid, Ints

LAST_COUNTS_BONUS = 0.15
"""Where two runs hold a passage alike, what each moment speaks for the later one."""
LAST_COUNTS_SLACK = 3.0
"""Notes that the later run may hold less on the way, before the look back ends."""
SETTLED_MOMENTS = 8
"""Moments on each side of a jump that say what shift it joins."""
WHOLE_BAR_REACH = 0.2
"""Quarters from a bar's first note that are still the bar's start."""
SETTLE_SLACK = 1.5
"""Notes that may be less explained for a jump ahead to land on the first note of a bar."""
CREEP_REST_MOMENTS = 3
"""A creep that rests for longer is two."""
STEP_LEAST_BINS = 4
"""80 ms: a step that a listener hears as one."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Path:
    """The best path for one tempo ratio.

    `shift` has one entry for each moment, in quarters of the player's own time, NaN where the
    moment is silent; `run` numbers the stretches without a jump from 0, -1 where silent.
    """

    ratio: float
    score: float
    shift: Floats
    run: Ints


def settled(grid: Grid, path: Path) -> Path:
    """The path with its jumps where a listener would hear them."""
    for settle in (_last_counts, _whole_bars_are_skipped, _steep_creeps_are_jumps):
        path = settle(grid, path)
    return path


def _last_counts(grid: Grid, path: Path) -> Path:
    """Where a passage was played twice, let the later run have it.

    Both runs explain such a passage alike, so the optimum leaves open where the jump is. The
    boundary moves back to where the later run holds most, a bar's start before others.
    """
    shift, run = path.shift.copy(), path.run.copy()
    for k in range(1, int(run.max(initial=0)) + 1):
        start = int(np.nonzero(run == k)[0][0])
        later = shift[start]
        value, most, best = 0.0, 0.0, start
        m = start - 1
        while m >= 0 and run[m] == k - 1 and shift[m] < later and value > -LAST_COUNTS_SLACK:
            value += _reward_at(grid, m, later) - _reward_at(grid, m, float(shift[m])) + LAST_COUNTS_BONUS
            here = value + (JUMP_COST - float(grid.jump_cost[m]))
            if here >= most:
                most, best = here, m
            m -= 1
        shift[best:start], run[best:start] = later, k
    return Path(ratio=path.ratio, score=path.score, shift=shift, run=run)


def _whole_bars_are_skipped(grid: Grid, path: Path) -> Path:
    """A jump ahead lands on the first note of a bar, if that explains nearly as much.

    Where the music skipped is like the music around it, the place of the jump is open.
    """
    shift, run = path.shift.copy(), path.run.copy()
    for j, k in pairwise(np.unique(run[run >= 0]).tolist()):
        earlier, later = np.nonzero(run == j)[0], np.nonzero(run == k)[0]
        first, end, start, last = int(earlier[0]), int(earlier[-1]), int(later[0]), int(later[-1])
        # Beside a jump a run may creep for a note's sake: what it holds is its middle there.
        before = float(np.median(shift[earlier[-SETTLED_MOMENTS:]]))
        after = float(np.median(shift[later[:SETTLED_MOMENTS]]))
        if after >= before:
            continue
        # Both runs, each carried on through the whole of both.
        span = np.arange(first, last + 1)
        as_earlier = np.where(span <= earlier[-SETTLED_MOMENTS:][0], shift[span], before)
        as_later = np.where(span >= later[:SETTLED_MOMENTS][-1], shift[span], after)
        upto = _summed_rewards(grid, span, as_earlier)
        before_it = _summed_rewards(grid, span, as_later)
        places = grid.bar_firsts[(grid.bar_firsts > first) & (grid.bar_firsts <= last)]
        places = places[_skips_whole_bars(grid, places, after - before)]
        # Whatever the landing, the earlier run ends well before it: no note may count twice.
        places = np.append(places, start)
        back = round((after - before) / grid.bin_quarters) - grid.reach_bins
        ends = np.searchsorted(grid.moment_bin, grid.moment_bin[places] + back, side="right") - 1
        ends = np.maximum(ends, first - 1)
        earned = upto[ends + 1 - first] + before_it[-1] - before_it[places - first]
        earned[ends < first] = -np.inf
        if len(places) < 2:
            continue
        best = int(np.argmax(earned[:-1]))
        if earned[best] >= earned[-1] - (0.0 if start in grid.bar_firsts else SETTLE_SLACK):
            end, start = int(ends[best]), int(places[best])
            shift[span], run[span] = np.nan, -1
            shift[first : end + 1], run[first : end + 1] = as_earlier[: end + 1 - first], j
            shift[start : last + 1], run[start : last + 1] = as_later[start - first :], k
    return Path(ratio=path.ratio, score=path.score, shift=shift, run=run)


def _skips_whole_bars(grid: Grid, landing: Ints, jump: float) -> NDArray[np.bool_]:
    """For moments on which a jump may land: does it come from a bar's start, too?"""
    came_to = grid.moment_quarters[landing] + jump
    nearest = np.abs(came_to[:, None] - grid.moment_quarters[grid.bar_firsts][None, :]).min(axis=1)
    found: NDArray[np.bool_] = nearest < WHOLE_BAR_REACH
    return found


def _summed_rewards(grid: Grid, span: Ints, shift: Floats) -> Floats:
    """Rewards of a span's moments at their shifts, summed up to before each and in all."""
    each = [_reward_at(grid, m, s) for m, s in zip(span.tolist(), shift.tolist(), strict=True)]
    return np.cumsum([0.0, *each])


def _reward_at(grid: Grid, moment: int, shift: float) -> float:
    """Summed reward of a moment's notes at a shift in quarters."""
    return grid.reward_at(moment, int(grid.moment_bin[moment]) + round(shift / grid.bin_quarters))


def _steep_creeps_are_jumps(grid: Grid, path: Path) -> Path:
    """A stretch of creep along which a single jump would meet as many notes is that jump.

    Creep is cheap, so that it can follow a player who speeds up; between two places that lie
    near each other it undercuts a slip. Who truly speeds up is met in between, too.
    """
    shift, run = path.shift.copy(), path.run.copy()
    at = np.round(np.nan_to_num(shift) / grid.bin_quarters).astype(np.int64)
    for first, last in _creeps(at, run):
        before, after = float(shift[first]), float(shift[last])
        held = [_reward_at(grid, m, before) for m in range(first, last + 1)]
        moved = [_reward_at(grid, m, after) for m in range(first, last + 1)]
        crept = sum(_reward_at(grid, m, float(shift[m])) for m in range(first, last + 1))
        by_place = [sum(held[:k]) + sum(moved[k:]) for k in range(1, len(held))]
        best = max(range(len(by_place)), key=by_place.__getitem__)
        if by_place[best] >= crept:
            jump = first + 1 + best
            shift[first:jump], shift[jump : last + 1] = before, after
            run[jump:][run[jump:] >= 0] += 1
    return Path(ratio=path.ratio, score=path.score, shift=shift, run=run)


def _creeps(at: Ints, run: Ints) -> Iterator[tuple[int, int]]:
    """First and last moments of stretches that creep one way, far and without a long rest."""
    moves = np.diff(at) * (np.diff(run) == 0) * (run[1:] >= 0)
    where = np.nonzero(moves)[0].tolist()
    start = 0
    for k in range(1, len(where) + 1):
        goes_on = k < len(where) and (
            moves[where[k]] == moves[where[start]]
            and where[k] - where[k - 1] <= CREEP_REST_MOMENTS
            and run[where[k]] == run[where[start]]
        )
        if goes_on:
            continue
        if k - start >= STEP_LEAST_BINS:
            yield where[start], where[k - 1] + 1
        start = k
