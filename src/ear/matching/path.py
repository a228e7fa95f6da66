"""The player's time base: which stretch of the take plays which stretch of the target.

**Model.** Let b be a target moment (simultaneous notes) in quarters and y the time of a take
note in quarters of the player's own clock (`clock.py`). While the player goes
on, y = b + S with a shift S that may creep; where he hesitates, starts anew, leaves bars out
or comes in late, S jumps. The path gives each moment either a shift or silence. It maximises

    sum over played moments of  sum over their notes of  reward(note, y = b + S)
      - JUMP_COST for each jump (less on a bar's start)  - SILENT_COST for each moment skipped
      - CREEP_COST for each bin of creep  - END_COST for an end before the last bar

where the reward of a note is a smooth bump (1 at an onset of its pitch, 0 from `REACH_S` away;
`ANY_PITCH_REWARD` of it at an onset of any other pitch), and where the take is used only
forward: after a jump, y lies beyond all that was used before. That last condition makes the
optimum use no take note twice, and it lets restarts, skips, slips and late starts be one
thing, a jump, told apart afterwards.

**Method.** Dynamic programming over moments with two layers on a grid of bins (`grid.py`):
`play[S]`, the best score that ends playing at shift S, and `rest[y]`, the best score that has used
the take up to y and not beyond (a running maximum). Each step is a few vector operations over the
grid, so the time is O(moments x shifts) and the memory the same in single precision. Shifts are
first searched within `NEAR_S` of the click, then all; the wider search is left out while too few
notes are left alone to pay for it (`search.py`). Before either, the best path without a jump is
found in a narrow band; where it can be proved that no jump would pay, it is the answer
(`straight.py`). Where the optimum leaves the place of a jump open, it is settled afterwards
(`runs.py`).

**Sources.** Segment-wise dynamic programming with a bounded number of jumps is that of Nakamura,
Nakamura and Sagayama, "Real-time audio-to-score alignment of music performances containing
errors and arbitrary repeats and skips" (IEEE/ACM TASLP 24, 2016), whose cost structure makes
jumps of any size one case; the running maximum that keeps the take in order is the usual device
of chaining (Gusfield, "Algorithms on Strings, Trees, and Sequences", 1997, §13.3).
"""

from dataclasses import dataclass
from enum import Enum

import numpy as np

from ear.matching.grid import BIN_S, OnsetGrid, Scores
from ear.matching.runs import Path, settled
from ear.matching.straight import NOTHING, creep_scores, no_jump_pays

CREEP_COST = 0.16
"""For each bin and moment; low enough to follow a player who speeds up."""
SILENT_COST = 0.04
"""For each moment left out before a jump: short skips are likelier than long ones."""
BEGIN_COST = 0.4
"""Notes that a beginning elsewhere than at the beginning must gain, over a jump later on."""
END_COST = 1.0
"""Notes that an end before the last bar costs: to break off is an event as a jump is, but likelier
than a jump to the end."""
END_EARNS = 0.2
"""What a moment must earn for the path to be said to end there."""
STRAIGHT_S = 1.0
"""For a path without a jump: only creep can lead away from the click."""
MIN_STRAIGHT = 0.6
"""Share of the target's notes below which a path without a jump will hardly be the best."""
NEAR_S = 5.0
"""First search: shifts of a few beats either way."""
MAX_CELLS = 30_000_000
"""Moments x shifts of a search: 120 MB. Twelve minutes of music still search every shift within
a minute and a half."""
FAR_S = 600.0
"""No take is searched further from the click than ten minutes: who waits for longer begins another one."""
ROUNDING = 1e-3
"""Scores are single precision: what differs less is equal."""
START_S = 0.3
"""A first note this far from the click is still no late start."""


class ShiftRange(Enum):
    """How far from the click shifts are searched. STRAIGHT allows no jump, only creep."""

    STRAIGHT = STRAIGHT_S
    NEAR = NEAR_S
    FAR = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Straight:
    """The best path without a jump, as it was found and with its jumps settled, and the rewards it was found from:
    (moments, shifts from `low` on)."""

    path: Path
    settled: Path
    rewards: Scores
    low: int


def straight_path(grid: OnsetGrid) -> Straight:
    """Return the best path that only creeps."""
    low, width = _band(grid, ShiftRange.STRAIGHT)
    rewards = grid.rewards(low=low, width=width)
    before = beginnings(low=low, width=width, elsewhere=float(NOTHING))
    arrived, play = creep_scores(rewards, before=before, creep_cost=CREEP_COST)
    path = _trace(grid, arrived, play, low=low)
    return Straight(path=path, settled=settled(grid, path), rewards=rewards, low=low)


def best_path(grid: OnsetGrid, straight: Straight, *, reach: ShiftRange) -> Path:
    """Return the path with the highest score among the shifts within reach.

    `straight` is the best path without a jump.

    Very long takes search fewer far shifts: moments x shifts stay within CELLS_MOST.
    """
    if reach is ShiftRange.STRAIGHT or (reach is ShiftRange.NEAR and _is_best(grid, straight)):
        return straight.settled
    low, width = _band(grid, reach)
    arrived, play = _play(grid, low=low, width=width)
    return settled(grid, _trace(grid, arrived, play, low=low))


def _band(grid: OnsetGrid, reach: ShiftRange) -> tuple[int, int]:
    """The lowest shift that is searched, and how many, in bins."""
    if reach.value is None:
        bound = max(1, min(MAX_CELLS // (2 * len(grid.moment_bin)), round(FAR_S / BIN_S)))
    else:
        bound = round(reach.value / BIN_S)
    low = max(-int(grid.moment_bin[-1]), -bound)
    high = min(grid.take_bins - int(grid.moment_bin[0]), bound)
    # Where the take ends long before the music begins, no shift within reach meets any of it: one is looked at.
    return low, max(low, high) - low + 1


def beginnings(*, low: int, width: int, elsewhere: float) -> Scores:
    """Return the score of beginning at each shift of a band; it is 0 near the click, where no jump is needed."""
    before = np.full(width, elsewhere, dtype=np.float32)
    start = round(START_S / BIN_S)
    before[max(0, -start - low) : max(0, start - low + 1)] = 0.0
    return before


def _is_best(grid: OnsetGrid, straight: Straight) -> bool:
    """Is a path without a jump better than all with one? False leaves it open."""
    path = straight.path
    if path.score < MIN_STRAIGHT * len(grid.note_row) or np.isnan(path.shift[grid.bar_firsts[-1]]):
        return False
    played = np.nonzero(~np.isnan(path.shift))[0]
    at = np.zeros(len(grid.moment_bin), dtype=np.int64)
    earned = np.zeros(len(at), dtype=np.float32)
    at[played] = np.round(path.shift[played] / grid.bin_quarters)
    earned[played] = straight.rewards[played, at[played] - straight.low]
    low, width = _band(grid, ShiftRange.NEAR)
    return no_jump_pays(grid, at=at, earned=earned, low=low, width=width)


def _play(grid: OnsetGrid, *, low: int, width: int) -> tuple[Scores, Scores]:
    """Best score on arriving at each moment and shift, before and after its own reward.

    Both of shape (moments, width).

    `rest[y]` is kept on the take's own bins, lifted by SILENT_COST a moment so that it need not
    be lowered at each step; beyond the band that has been reached it holds its last value. It
    begins `apart` bins early, so that a jump reads it that much before the place it lands on.
    """
    count = len(grid.moment_bin)
    first, last = int(grid.moment_bin[0]), int(grid.moment_bin[-1])
    # The reward of a moment at shift S is the reward at take bin b + S, so one padded row serves all shifts
    # by slicing.
    # Pad, so that every moment can be read at every shift.
    left = max(0, -(first + low))
    right = max(0, last + low + width - grid.take_bins)
    reward = list(np.pad(grid.reward, ((0, 0), (left, right))))
    rows_of: list[list[int]] = [[] for _ in range(count)]
    for moment, row in zip(grid.note_moment.tolist(), grid.note_row.tolist(), strict=True):
        rows_of[moment].append(row)
    play = np.empty((count, width), dtype=np.float32)
    arrived = np.empty((count, width), dtype=np.float32)
    apart = grid.apart
    rest = np.full(apart + last - first + width, -BEGIN_COST, dtype=np.float32)
    before = beginnings(low=low, width=width, elsewhere=float(NOTHING))
    # One array in a frame of NOTHING gives the three neighbours of a shift as views, without copying.
    framed = np.full(width + 2, NOTHING)
    lowered, creep_up, creep_down = framed[1:-1], framed[:-2], framed[2:]
    lifted = np.empty(width, dtype=np.float32)
    reached = apart + width
    jump_cost = grid.jump_cost.tolist()
    for m, bin_ in enumerate(grid.moment_bin.tolist()):
        best = arrived[m]
        np.subtract(before, CREEP_COST, out=lowered)
        np.maximum(creep_up, creep_down, out=best)
        np.maximum(best, before, out=best)
        # `rest` is indexed by take bin: at this moment, shift k lies at begin + k, and a jump reads it
        # `apart` bins earlier.
        begin = bin_ - first
        end = begin + apart + width
        if end > reached:
            rest[reached:end] = rest[reached - 1]
            reached = end
        lift = SILENT_COST * m
        np.subtract(rest[begin : begin + width], jump_cost[m] + lift, out=lifted)
        np.maximum(best, lifted, out=best)
        at = bin_ + low + left
        first_row, *others = rows_of[m]
        best = np.add(best, reward[first_row][at : at + width], out=play[m])
        for row in others:
            best += reward[row][at : at + width]
        # The running maximum says: the best that has used the take up to here, at whatever shift.
        np.maximum.accumulate(best, out=lifted)
        lifted += lift
        here = rest[begin + apart : end]
        np.maximum(here, lifted, out=here)
        before = best
    return arrived, play


def _trace(grid: OnsetGrid, arrived: Scores, play: Scores, *, low: int) -> Path:
    """Walk back from the best end. Silent moments are those between the runs."""
    count = len(play)
    shift = np.full(count, np.nan)
    run = np.full(count, -1, dtype=np.int64)
    m, k, score = _end(grid, arrived, play)
    runs = 0
    while score > 0:
        step: int | None = 0
        while step is not None:
            k += step
            shift[m] = (k + low) * grid.bin_quarters
            run[m] = runs
            step = step_back(float(arrived[m, k]), play[m - 1], k) if m else None
            if step is not None:
                m -= 1
        if m == 0:
            break
        source = _jump_source(grid, play, m, k, worth=float(arrived[m, k]) + float(grid.jump_cost[m]))
        if source is None:
            break
        m, k = source
        runs += 1
    # The walk goes backwards, so the runs come out numbered from the last.
    run[run >= 0] = runs - run[run >= 0]
    return Path(score=score, shift=shift, run=run)


def _jump_source(grid: OnsetGrid, play: Scores, m: int, k: int, *, worth: float) -> tuple[int, int] | None:
    """Moment and shift index that a jump to moment m and shift index k came from; None for the start.

    It is the best play that had used the take only up to there, less the cost of the silence
    between. What it was `worth` is known, so the search back from m ends where it is met.
    """
    if worth <= ROUNDING - SILENT_COST * m - BEGIN_COST:
        return None
    # A jump may only read what ended before the place where it lands, so that no take note serves twice.
    limit = int(grid.moment_bin[m]) + k - grid.apart
    best, source = -np.inf, None
    for earlier in range(m - 1, -1, -1):
        usable = play[earlier, : max(0, limit - int(grid.moment_bin[earlier]) + 1)]
        if not len(usable):
            continue
        at = int(usable.argmax())
        score = float(usable[at]) - SILENT_COST * (m - earlier)
        if score > best:
            best, source = score, (earlier, at)
        if best >= worth - ROUNDING:
            break
    return source


def _end(grid: OnsetGrid, arrived: Scores, play: Scores) -> tuple[int, int, float]:
    """Moment and shift index at which the best path ends, and its score."""
    width = play.shape[1]
    # A take that breaks off pays END_COST; one that reaches the last bar does not, if its last moment earns
    # something.
    anywhere = int(np.argmax(play))
    score = float(play.flat[anywhere]) - END_COST
    first = int(grid.bar_firsts[-1])
    tail = np.where(play[first:] > arrived[first:] + END_EARNS, play[first:], NOTHING)
    in_last_bar = int(np.argmax(tail))
    if float(tail.flat[in_last_bar]) >= score:
        m, k = divmod(in_last_bar, width)
        return first + m, k, float(tail.flat[in_last_bar])
    m, k = divmod(anywhere, width)
    return m, k, score


def step_back(arrived: float, before: Scores, k: int) -> int | None:
    """Return the creep (-1, 0, 1) by which a score arrived at bin k, or None for a jump."""
    # Scores are sums in single precision: equality is asked with a tolerance, and creep 0 first, so that
    # ties stay straight.
    least = arrived - ROUNDING
    if before[k] >= least:
        return 0
    if k > 0 and before[k - 1] - CREEP_COST >= least:
        return -1
    if k + 1 < len(before) and before[k + 1] - CREEP_COST >= least:
        return 1
    return None
