"""The player's time base: which stretch of the take plays which stretch of the target.

**Model.** Let b be a target moment (simultaneous notes) in quarters and y the time of a take
note in the click's quarters, multiplied by the player's tempo ratio. While the player goes
on, y = b + S with a shift S that may creep; where he hesitates, starts anew, leaves bars out
or comes in late, S jumps. The path gives each moment either a shift or silence. It maximises

    sum over played moments of  sum over their notes of  reward(note, y = b + S)
      - JUMP_COST for each jump (less on a bar's start)  - SILENT_COST for each moment skipped
      - CREEP_COST for each bin of creep

where the reward of a note is a smooth bump (1 at an onset of its pitch, 0 from `REACH_S` away;
`ANY_PITCH_REWARD` of it at an onset of any other pitch), and where the take is used only
forward: after a jump, y lies beyond all that was used before. That last condition makes the
optimum use no take note twice, and it lets restarts, skips, slips and late starts be one
thing, a jump, told apart afterwards.

**Method.** Dynamic programming over moments with two layers on a grid of bins: `play[S]`, the
best score that ends playing at shift S, and `rest[y]`, the best score that has used the take up
to y and not beyond (a running maximum). Each step is a few vector operations over the grid, so
the time is O(moments x shifts) and the memory the same in single precision. Shifts are first
searched within `NEAR_S` of the click, then all; the wider search is left out while too few notes
are left alone to pay for it (`search.py`).

**Sources.** Segment-wise dynamic programming with a bounded number of jumps is that of Nakamura,
Nakamura and Sagayama, "Real-time audio-to-score alignment of music performances containing
errors and arbitrary repeats and skips" (IEEE/ACM TASLP 24, 2016), whose cost structure makes
jumps of any size one case; the running maximum that keeps the take in order is the usual device
of chaining (Gusfield, "Algorithms on Strings, Trees, and Sequences", 1997, §13.3).
"""

from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

BIN_S = 0.02
"""Grid of shifts: finer than the reward's bump, coarse enough to be quick."""
REACH_S = 0.14
"""A note rewards no shift from here on: beyond it, listeners hear another place in the bar."""
ANY_PITCH_REWARD = 0.25
"""A wrong key in the right place is still evidence of the place."""
JUMP_COST = 2.6
"""Notes that a jump must gain: two could be chance, three in a row are not."""
BAR_START_DISCOUNT = 0.6
"""People go back to, and jump to, the start of a bar: such a jump needs less evidence."""
CREEP_COST = 0.08
"""For each bin and moment; low enough to follow a player who speeds up."""
SILENT_COST = 0.04
"""For each moment left out before a jump: short skips are likelier than long ones."""
LAST_COUNTS_BONUS = 0.15
"""Where two runs hold a passage alike, what each moment speaks for the later one."""
LAST_COUNTS_SLACK = 3.0
"""Notes that the later run may hold less on the way, before the look back ends."""
STRAIGHT_S = 1.0
"""For a quick look at many tempos: no jump, so that only creep can lead away from the click."""
NEAR_S = 5.0
"""First search: shifts of a few beats either way."""
CELLS_MOST = 30_000_000
"""Moments x shifts of a search: 120 MB. Twelve minutes of music still search every shift within
a minute and a half."""
ROUNDING = 1e-3
"""Scores are single precision: what differs less is equal."""
START_S = 0.3
"""A first note this far from the click is still no late start."""

UNPLAYED = np.iinfo(np.int64).min


@dataclass(frozen=True, slots=True, kw_only=True)
class Onsets:
    """Notes as arrays, in order of (time, pitch): time in quarters, pitch or lane number."""

    time: Floats
    pitch: Ints

    def __len__(self) -> int:
        return len(self.time)


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Grid:
    """The target's moments and the take's onsets on bins of one width, in quarters."""

    bin_quarters: float
    moment_bin: Ints
    note_moment: Ints
    note_row: Ints
    """For each target note, its pitch's row in `reward`."""
    reward: NDArray[np.float32]
    """Shape (pitches of the target, bins of the take)."""
    jump_cost: NDArray[np.float32]
    """Cost of a jump that lands on each moment."""
    take_bins: int
    reach_bins: int


def moments_of(time: Floats) -> tuple[Floats, Ints]:
    """Distinct times, and for each note the index of its own; times are sorted."""
    if len(time) == 0:
        return np.zeros(0), np.zeros(0, dtype=np.int64)
    starts = np.concatenate(([True], np.diff(time) > 1e-6))
    return time[starts], np.cumsum(starts) - 1


def make_grid(
    target: Onsets, take: Onsets, *, ratio: float, quarters_per_second: float, bar_starts: Floats
) -> Grid:
    """Lay target and take (times the ratio) on bins. Both hold at least one note.

    `bar_starts` are the quarters at which the target's bars begin.
    """
    width = BIN_S * quarters_per_second
    moments, note_moment = moments_of(target.time)
    reach = round(REACH_S / BIN_S)
    pitches = np.unique(target.pitch)
    take_bin = np.round(take.time * ratio / width).astype(np.int64)
    lowest = min(int(take_bin[0]), 0)
    size = int(take_bin[-1]) - lowest + 1 + 2 * reach
    bump = (1.0 - (np.arange(-reach, reach + 1) / reach) ** 2).astype(np.float32)
    reward = np.zeros((len(pitches), size), dtype=np.float32)
    place = take_bin - lowest
    anywhere = np.zeros(size, dtype=np.float32)
    row_of = np.searchsorted(pitches, take.pitch)
    known = (row_of < len(pitches)) & (pitches[np.minimum(row_of, len(pitches) - 1)] == take.pitch)
    for step, height in enumerate(bump):
        at = place + step
        anywhere[at] = np.maximum(anywhere[at], height)
        own = (row_of[known], at[known])
        reward[own] = np.maximum(reward[own], height)
    np.maximum(reward, ANY_PITCH_REWARD * anywhere, out=reward)
    # Bin k of `reward` stands for take time (k - reach + lowest): moments are counted from there.
    return Grid(
        bin_quarters=width,
        moment_bin=np.round(moments / width).astype(np.int64) + reach - lowest,
        note_moment=note_moment,
        note_row=np.searchsorted(pitches, target.pitch),
        reward=reward,
        jump_cost=(JUMP_COST - BAR_START_DISCOUNT * np.isin(moments, bar_starts)).astype(np.float32),
        take_bins=size,
        reach_bins=reach,
    )


class Reach(Enum):
    """How far from the click shifts are searched. STRAIGHT allows no jump, only creep."""

    STRAIGHT = STRAIGHT_S
    NEAR = NEAR_S
    FAR = None


def best_path(grid: Grid, *, ratio: float, reach: Reach) -> Path:
    """The path of highest score among the shifts within reach.

    Very long takes search fewer far shifts: moments x shifts stay within CELLS_MOST.
    """
    first, last = int(grid.moment_bin[0]), int(grid.moment_bin[-1])
    low, high = -last, grid.take_bins - first
    if reach.value is None:
        bound = max(1, CELLS_MOST // (2 * len(grid.moment_bin)))
    else:
        bound = round(reach.value / BIN_S)
    low, high = max(low, -bound), min(high, bound)
    arrived, play = _play(grid, low=low, width=high - low + 1, may_jump=reach is not Reach.STRAIGHT)
    return _last_counts(grid, _trace(grid, arrived, play, low=low, ratio=ratio))


def _play(
    grid: Grid, *, low: int, width: int, may_jump: bool
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Best score on arriving at each moment and shift, before and after its own reward.

    Both of shape (moments, width).

    `rest[y]` is kept on the take's own bins, lifted by SILENT_COST a moment so that it need not
    be lowered at each step; beyond the band that has been reached it holds its last value.
    """
    count = len(grid.moment_bin)
    first, last = int(grid.moment_bin[0]), int(grid.moment_bin[-1])
    # Pad, so that every moment can be read at every shift.
    left = max(0, -(first + low))
    right = max(0, last + low + width - grid.take_bins)
    reward = list(np.pad(grid.reward, ((0, 0), (left, right))))
    rows_of: list[list[int]] = [[] for _ in range(count)]
    for moment, row in zip(grid.note_moment.tolist(), grid.note_row.tolist(), strict=True):
        rows_of[moment].append(row)
    play = np.empty((count, width), dtype=np.float32)
    arrived = np.empty((count, width), dtype=np.float32)
    rest = np.zeros(last - first + width, dtype=np.float32)
    before = np.full(width, -1e9, dtype=np.float32)
    start = round(START_S / BIN_S)
    before[max(0, -start - low) : max(0, start - low + 1)] = 0.0
    apart = _apart(grid)
    lowered = np.empty(width, dtype=np.float32)
    lifted = np.empty(width, dtype=np.float32)
    reached = width
    jump_cost = grid.jump_cost.tolist()
    for m, bin_ in enumerate(grid.moment_bin.tolist()):
        best = arrived[m]
        np.subtract(before, CREEP_COST, out=lowered)
        best[0] = before[0]
        np.maximum(before[1:], lowered[:-1], out=best[1:])
        np.maximum(best[:-1], lowered[1:], out=best[:-1])
        if may_jump:
            begin = bin_ - first
            end = begin + width
            if end > reached:
                rest[reached:end] = rest[reached - 1]
                reached = end
            here = rest[begin:end]
            lift = SILENT_COST * m
            np.subtract(here, jump_cost[m] + lift, out=lifted)
            np.maximum(best[apart:], lifted[: width - apart], out=best[apart:])
            np.maximum(best[:apart], lifted[0], out=best[:apart])
        at = bin_ + low + left
        first_row, *others = rows_of[m]
        best = np.add(best, reward[first_row][at : at + width], out=play[m])
        for row in others:
            best += reward[row][at : at + width]
        if may_jump:
            np.maximum.accumulate(best, out=lifted)
            lifted += lift
            np.maximum(here, lifted, out=here)
        before = best
    return arrived, play


def _apart(grid: Grid) -> int:
    """Bins that a jump keeps from the last note used, so that it is not used again."""
    return grid.reach_bins // 2


def _trace(
    grid: Grid, arrived: NDArray[np.float32], play: NDArray[np.float32], *, low: int, ratio: float
) -> Path:
    """Walk back from the best end. Silent moments are those between the runs."""
    count, width = play.shape
    shift = np.full(count, np.nan)
    run = np.full(count, -1, dtype=np.int64)
    flat = int(np.argmax(play))
    score = float(play.flat[flat])
    m, k = divmod(flat, width)
    runs = 0
    while score > 0:
        step: int | None = 0
        while step is not None:
            k += step
            shift[m] = (k + low) * grid.bin_quarters
            run[m] = runs
            step = _step_back(float(arrived[m, k]), play[m - 1], k) if m else None
            if step is not None:
                m -= 1
        if m == 0:
            break
        # The jump came from the best play that had used the take only up to here, less what the
        # silence between cost.
        limit = int(grid.moment_bin[m]) + k - _apart(grid)
        usable = grid.moment_bin[:m, None] + np.arange(width)[None, :] <= limit
        silence = SILENT_COST * (m - np.arange(m, dtype=np.float32))
        earlier = np.where(usable, play[:m] - silence[:, None], -1e9)
        flat = int(np.argmax(earlier))
        if earlier.flat[flat] <= 0:
            break
        m, k = divmod(flat, width)
        runs += 1
    run[run >= 0] = runs - run[run >= 0]
    return Path(ratio=ratio, score=score, shift=shift, run=run)


def _step_back(arrived: float, before: NDArray[np.float32], k: int) -> int | None:
    """The creep (-1, 0, 1) by which a score arrived at bin k, or None for a jump."""
    least = arrived - ROUNDING
    if before[k] >= least:
        return 0
    if k > 0 and before[k - 1] - CREEP_COST >= least:
        return -1
    if k + 1 < len(before) and before[k + 1] - CREEP_COST >= least:
        return 1
    return None


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


def _reward_at(grid: Grid, moment: int, shift: float) -> float:
    """Summed reward of a moment's notes at a shift, in quarters."""
    return _reward_at_bin(grid, moment, int(grid.moment_bin[moment]) + round(shift / grid.bin_quarters))


def _reward_at_bin(grid: Grid, moment: int, at: int) -> float:
    if not 0 <= at < grid.take_bins:
        return 0.0
    first, after = np.searchsorted(grid.note_moment, [moment, moment + 1])
    return float(grid.reward[grid.note_row[first:after], at].sum())
