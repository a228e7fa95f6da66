"""The path found along the take: for takes in which much was played twice.

The search along the target (`path.py`) counts each target note once. What was broken off and
played anew earns nothing there, so a take that is mostly such tries can look like one that
skips ahead. Here each take note is counted once and the target may be gone through again: the
path gives each onset of the take a shift, a jump may lead anywhere, and the last rendition of a
passage counts. Which of the two stories is told is decided by what both notes of target and
notes of take say for it, `explained`.

Cost: O(onsets x shifts); it is searched only where notes of the take are alone or wrong.
"""

import numpy as np

from ear.matching.grid import BIN_S, JUMP_COST, Floats, Ints, OnsetGrid, Onsets, Scores, make_grid
from ear.matching.path import CREEP_COST, MAX_CELLS, START_S, beginnings, step_back
from ear.matching.runs import Path
from ear.matching.straight import creep_scores

ORDER_WORTH, BACK_QUARTERS = 1.0, 1.0
"""Notes that a story in which the music goes on may explain less than one that leads back and forth; and what is back."""


def exchanged_grid(target: Onsets, take: Onsets, *, quarters_per_second: float) -> OnsetGrid:
    """Return a grid whose moments are the take's onsets, in the player's own time, and whose rewards are the
    target's.
    """
    return make_grid(take, target, quarters_per_second=quarters_per_second, bar_starts=np.zeros(0))


def path_along_take(grid: OnsetGrid, exchanged: OnsetGrid) -> Path | None:
    """Return the best path that plays some of the target again; None if it need not, or if the search is too
    large.

    Its score is 0: `explained` says what it is worth.
    """
    first, last = int(exchanged.moment_bin[0]), int(exchanged.moment_bin[-1])
    low, width = -last, exchanged.take_bins - first + last + 1
    if 2 * len(exchanged.moment_bin) * width > MAX_CELLS:
        return None
    arrived, play = creep_scores(
        exchanged.rewards(low=low, width=width),
        before=beginnings(low=low, width=width, elsewhere=-JUMP_COST),
        creep_cost=CREEP_COST,
        jump_cost=JUMP_COST,
    )
    at, run = _trace(arrived, play, low=low)
    shift_in = _renditions(grid, exchanged, at, run)
    if not ((~np.isnan(shift_in)).sum(axis=0) > 1).any():
        return None
    latest = _last_of(shift_in, goes_on=False)
    time = (grid.moment_quarters + latest.shift)[latest.run >= 0]
    if not (np.diff(time) < -BACK_QUARTERS).any():
        return latest
    in_order = _last_of(shift_in, goes_on=True)
    if in_order.run.max() < 1 and float(np.nanmin(np.abs(in_order.shift))) <= BACK_QUARTERS:
        # Without its way back and forth, it has nothing to tell.
        return None
    worth, worth_in_order = (explained(grid, exchanged, path) for path in (latest, in_order))
    return in_order if worth_in_order >= worth - ORDER_WORTH else latest


def _trace(arrived: Scores, play: Scores, *, low: int) -> tuple[Ints, Ints]:
    """Shift in bins and number of run for each onset, back from the best end."""
    count = len(play)
    at, run = np.zeros(count, dtype=np.int64), np.zeros(count, dtype=np.int64)
    k = int(np.argmax(play[-1]))
    for j in range(count - 1, 0, -1):
        at[j] = k + low
        step = step_back(float(arrived[j, k]), play[j - 1], k)
        run[j - 1] = run[j] if step is not None else run[j] - 1
        k = k + step if step is not None else int(np.argmax(play[j - 1]))
    at[0] = k + low
    return at, run - run[0]


def _renditions(grid: OnsetGrid, exchanged: OnsetGrid, at: Ints, run: Ints) -> Floats:
    """For each run and each target moment the shift (quarters), NaN where the run does not play it."""
    runs, moments = int(run[-1]) + 1, len(grid.moment_bin)
    shift_in = np.full((runs, moments), np.nan)
    reach = grid.reach_bins * grid.bin_quarters
    for k in range(runs):
        here = run == k
        place = np.maximum.accumulate(exchanged.moment_quarters[here] + at[here] * grid.bin_quarters)
        played = (grid.moment_quarters > place[0] - reach) & (grid.moment_quarters < place[-1] + reach)
        shift_in[k, played] = np.interp(grid.moment_quarters[played], place, -at[here] * grid.bin_quarters)
    return shift_in


def _last_of(shift_in: Floats, *, goes_on: bool) -> Path:
    """The path of the last renditions, its runs numbered along the target; where the music `goes_on`, of the last ones that
    it went on from: who plays the opening again in the middle, among bars alike, has not begun there."""
    runs, moments = shift_in.shape
    of = np.full(moments, -1, dtype=np.int64)
    latest = runs - 1
    for m in range(moments - 1, -1, -1):
        played = np.flatnonzero(~np.isnan(shift_in[: latest + 1 if goes_on else runs, m]))
        if len(played):
            of[m] = latest = int(played[-1])
    shift = np.where(of >= 0, shift_in[np.maximum(of, 0), np.arange(moments)], np.nan)
    begins = (np.diff(of, prepend=-2) != 0) & (of >= 0)
    return Path(score=0.0, shift=shift, run=np.where(of >= 0, np.cumsum(begins) - 1, -1))


def explained(grid: OnsetGrid, exchanged: OnsetGrid, path: Path) -> float:
    """Return how many notes a path explains, target and take counting half each, less the cost of its jumps.

    A take note is explained by the run that plays at its time, carried on through what it broke off.
    """
    played = np.nonzero(path.run >= 0)[0]
    if not len(played):
        return 0.0
    of_target = np.where(path.run >= 0, grid.earned(np.nan_to_num(path.shift)), 0.0).sum()
    time = grid.moment_quarters[played] + path.shift[played]
    order = np.argsort(time, kind="stable")
    # The shift holds from the last moment played before; before the first, from the first.
    held = np.searchsorted(time[order], exchanged.moment_quarters + grid.bin_quarters, side="right") - 1
    shift = path.shift[played][order][np.maximum(held, 0)]
    of_take = exchanged.earned(-shift).sum()
    jumps = len(set(path.run[played].tolist())) - 1
    if abs(shift[0]) > START_S / BIN_S * grid.bin_quarters:
        jumps += 1
    return float(of_target + of_take) / 2.0 - JUMP_COST * jumps
