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
the time is O(moments x shifts) and the memory the same in single precision. The shifts are
first searched within `NEAR_S` of the click, then all; the wider search is left out when no
path could gain by it (`Path.headroom`).

**Sources.** Segment-wise dynamic programming with a bounded number of jumps is that of Nakamura,
Nakamura and Sagayama, "Real-time audio-to-score alignment of music performances containing
errors and arbitrary repeats and skips" (IEEE/ACM TASLP 24, 2016), whose cost structure makes
jumps of any size one case; the running maximum that keeps the take in order is the usual device
of chaining (Gusfield, "Algorithms on Strings, Trees, and Sequences", 1997, §13.3).
"""

from dataclasses import dataclass

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
LAST_COUNTS_SHARE = 0.8
"""A later run takes a passage over from an earlier one if it holds this share of its reward."""
NEAR_S = 6.0
"""First search: shifts of a few beats either way."""
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


def best_path(grid: Grid, *, ratio: float, near: bool) -> Path:
    """The path of highest score; with `near`, among shifts within NEAR_S of the click."""
    first, last = int(grid.moment_bin[0]), int(grid.moment_bin[-1])
    low, high = -last, grid.take_bins - first
    if near:
        bound = round(NEAR_S / BIN_S)
        low, high = max(low, -bound), min(high, bound)
    width = high - low + 1
    count = len(grid.moment_bin)
    # Pad, so that every moment can be read at every shift.
    left = max(0, -(first + low))
    right = max(0, last + high + 1 - grid.take_bins)
    reward = np.pad(grid.reward, ((0, 0), (left, right)))
    play = np.empty((count, width), dtype=np.float32)
    came = np.zeros((count, width), dtype=np.int8)
    rest = np.zeros(width, dtype=np.float32)
    lows = grid.moment_bin + low + left
    note = 0
    before = np.full(width, -1e9, dtype=np.float32)
    start = round(START_S / BIN_S)
    before[max(0, -start - low) : max(0, start - low + 1)] = 0.0
    apart = grid.reach_bins // 2
    for m in range(count):
        # rest[k] belongs to take bin (moment_bin + low + k); move it to this moment.
        if m:
            rest -= SILENT_COST
            step = int(grid.moment_bin[m] - grid.moment_bin[m - 1])
            if step < width:
                tail = rest[-1]
                rest[: width - step] = rest[step:].copy()
                rest[width - step :] = tail
            else:
                rest[:] = rest[-1]
        best = before.copy()
        way = came[m]
        up = before[:-1] - CREEP_COST
        better = up > best[1:]
        best[1:][better] = up[better]
        way[1:][better] = -1
        down = before[1:] - CREEP_COST
        better = down > best[:-1]
        best[:-1][better] = down[better]
        way[:-1][better] = 1
        jump = np.empty(width, dtype=np.float32)
        jump[apart:] = rest[: width - apart] - grid.jump_cost[m]
        jump[:apart] = rest[0] - grid.jump_cost[m]
        better = jump > best
        best[better] = jump[better]
        way[better] = 2
        at = int(lows[m])
        while note < len(grid.note_moment) and grid.note_moment[note] == m:
            best += reward[grid.note_row[note], at : at + width]
            note += 1
        play[m] = best
        before = best
        np.maximum(rest, np.maximum.accumulate(best), out=rest)
    path = _trace(grid, play, came, low=low, apart=apart, ratio=ratio)
    return _last_counts(grid, path)


def _trace(
    grid: Grid, play: NDArray[np.float32], came: NDArray[np.int8], *, low: int, apart: int, ratio: float
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
        while True:
            shift[m] = (k + low) * grid.bin_quarters
            run[m] = runs
            way = int(came[m, k])
            if way == 2 or m == 0:
                break
            k += way
            m -= 1
        if way != 2 or m == 0:
            break
        # The jump came from the best play that had used the take only up to here.
        limit = int(grid.moment_bin[m]) + k - apart
        ks = np.arange(width)
        usable = grid.moment_bin[:m, None] + ks[None, :] <= limit
        earlier = np.where(usable, play[:m], -1e9)
        flat = int(np.argmax(earlier))
        if earlier.flat[flat] <= 0:
            break
        m, k = divmod(flat, width)
        runs += 1
    run[run >= 0] = runs - run[run >= 0]
    return Path(ratio=ratio, score=score, shift=shift, run=run)


def _last_counts(grid: Grid, path: Path) -> Path:
    """Where a passage was played twice, let the later run have it.

    Both runs explain such a passage alike, so the optimum leaves open where the jump is. The
    boundary moves to the earliest moment from which the later run holds as much as the earlier.
    """
    shift, run = path.shift.copy(), path.run.copy()
    for k in range(1, int(run.max(initial=0)) + 1):
        start = int(np.nonzero(run == k)[0][0])
        later = shift[start]
        took, had, best = 0.0, 0.0, start
        m = start - 1
        while m >= 0 and run[m] == k - 1 and shift[m] < later:
            gain = _reward_at(grid, m, later)
            took += gain
            had += _reward_at(grid, m, float(shift[m]))
            if took < LAST_COUNTS_SHARE * had:
                break
            if gain > 0.5:
                best = m
            m -= 1
        shift[best:start], run[best:start] = later, k
    return Path(ratio=path.ratio, score=path.score, shift=shift, run=run)


def _reward_at(grid: Grid, moment: int, shift: float) -> float:
    """Summed reward of a moment's notes at a shift, in quarters."""
    at = int(grid.moment_bin[moment]) + round(shift / grid.bin_quarters)
    if not 0 <= at < grid.take_bins:
        return 0.0
    first, after = np.searchsorted(grid.note_moment, [moment, moment + 1])
    return float(grid.reward[grid.note_row[first:after], at].sum())
