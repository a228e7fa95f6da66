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

from ear.matching.grid import BAR_START_DISCOUNT, Floats, Ints, OnsetGrid

LAST_COUNTS_BONUS = 0.03
"""Where two landings explain the take alike, what each moment speaks for the earlier landing."""
SETTLED_MOMENTS = 8
"""Moments on each side of a jump that say what shift it joins."""
WHOLE_BAR_REACH = 0.2
"""Quarters from a bar's first note that are still the bar's start."""
AS_GOOD_BONUS = 0.02
SETTLE_SLACK = 1.5
"""Notes that may be less explained for a jump ahead to land on the first note of a bar."""
CREEP_REST_MOMENTS = 3
"""A creep that rests for longer is two."""
MIN_STEP_BINS = 4
"""80 ms: a step that a listener hears as one."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Path:
    """The best path on one clock of the player's.

    `shift` has one entry for each moment, in quarters of the player's own time, NaN where the
    moment is silent; `run` numbers the stretches without a jump from 0, -1 where silent.
    """

    score: float
    shift: Floats
    run: Ints


def settled(grid: OnsetGrid, path: Path) -> Path:
    """Return the path with its jumps moved to where a listener would hear them."""
    for settle in (_jumps_settle, _steep_creeps_are_jumps):
        path = settle(grid, path)
    return path


def _jumps_settle(grid: OnsetGrid, path: Path) -> Path:
    """Each jump lands where both runs, carried on through each other, explain most of the take.

    Notes of both are counted: those of the take, where a passage that was broken off is explained
    by the run before, so that a restart lands where the take breaks; and those of the target,
    each once, so that the last rendition of a passage counts.
    A jump ahead lands on the first note of a bar, if that explains nearly as much.
    """
    shift, run = path.shift.copy(), path.run.copy()
    for j, k in pairwise(sorted(set(run[run >= 0].tolist()))):
        earlier, later = np.nonzero(run == j)[0], np.nonzero(run == k)[0]
        first, start, last = int(earlier[0]), int(later[0]), int(later[-1])
        # Beside a jump a run may creep for a note's sake: what it holds is its middle there.
        before = float(np.median(shift[earlier[-SETTLED_MOMENTS:]]))
        after = float(np.median(shift[later[:SETTLED_MOMENTS]]))
        moments = np.arange(len(shift))
        # Both runs are carried on through each other, so that any moment between them can be asked under
        # either.
        as_earlier = np.where((run == j) & (moments <= earlier[-SETTLED_MOMENTS:][0]), shift, before)
        as_later = np.where((run == k) & (moments >= later[:SETTLED_MOMENTS][-1]), shift, after)
        # Between two whole bars the notes decide, not what else sounds where one of them is missing.
        is_ahead = after < before
        worth = grid.met if is_ahead else grid.earned
        # Running sums give what each run explains up to, and from, every possible landing place in one
        # step.
        upto = np.cumsum([0.0, *worth(as_earlier)])
        since = np.cumsum([0.0, *worth(as_later)])
        places = np.arange(first, last + 1)
        prior = LAST_COUNTS_BONUS * (start - places)
        prior[np.isin(places, grid.bar_firsts)] += BAR_START_DISCOUNT
        if is_ahead:
            whole = np.isin(places, grid.bar_firsts) & _skips_whole_bars(grid, places, after - before)
            places = np.append(places[whole], start)
            # Of places that explain it alike the last: what was begun is played to its end.
            prior = AS_GOOD_BONUS * np.arange(len(places), dtype=np.float64)
            prior[-1] = 0.0 if start in grid.bar_firsts else -SETTLE_SLACK
        # Wherever it lands, the earlier run ends well before: no take note may count twice.
        back = round((after - before) / grid.bin_quarters) - grid.reach_bins
        ends = np.searchsorted(grid.moment_bin, grid.moment_bin[places] + back, side="right") - 1
        ends = np.clip(ends, first - 1, last)
        kept = np.minimum(ends, places - 1)
        # Up to a constant: what the earlier run explains before the jump plus what the later one explains
        # after it.
        take_explained = upto[ends + 1] - since[places]
        target_explained = upto[kept + 1] - since[places]
        value = take_explained + target_explained + prior
        value[ends < first] = -np.inf
        best = int(np.argmax(value))
        start, end = int(places[best]), int(kept[best])
        shift[first : last + 1], run[first : last + 1] = np.nan, -1
        shift[first : end + 1], run[first : end + 1] = as_earlier[first : end + 1], j
        shift[start : last + 1], run[start : last + 1] = as_later[start : last + 1], k
    return Path(score=path.score, shift=shift, run=run)


def _skips_whole_bars(grid: OnsetGrid, landing: Ints, jump: float) -> NDArray[np.bool_]:
    """For moments on which a jump may land: does it come from a bar's start, too?"""
    came_to = grid.moment_quarters[landing] + jump
    nearest = np.abs(came_to[:, None] - grid.moment_quarters[grid.bar_firsts][None, :]).min(axis=1)
    flags: NDArray[np.bool_] = nearest < WHOLE_BAR_REACH
    return flags


def _steep_creeps_are_jumps(grid: OnsetGrid, path: Path) -> Path:
    """A stretch of creep along which a single jump would meet as many notes is that jump.

    Creep is cheap, so that it can follow a player who speeds up; between two places that lie
    near each other it undercuts a slip. Who truly speeds up is met in between, too.
    """
    shift, run = path.shift.copy(), path.run.copy()
    at = np.round(np.nan_to_num(shift) / grid.bin_quarters).astype(np.int64)
    crept = grid.earned(np.nan_to_num(shift))
    for first, last in _creeps(at, run):
        before, after = float(shift[first]), float(shift[last])
        span = slice(first, last + 1)
        held = grid.earned(np.full(len(shift), before))[span]
        moved = grid.earned(np.full(len(shift), after))[span]
        # For each place of a single jump: hold the first shift up to it, and the last one after it.
        by_place = np.cumsum(held)[:-1] + np.cumsum(moved[::-1])[::-1][1:]
        best = int(np.argmax(by_place))
        if by_place[best] >= crept[span].sum():
            jump = first + 1 + best
            shift[first:jump], shift[jump : last + 1] = before, after
            run[jump:][run[jump:] >= 0] += 1
    return Path(score=path.score, shift=shift, run=run)


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
        if k - start >= MIN_STEP_BINS:
            yield where[start], where[k - 1] + 1
        start = k
