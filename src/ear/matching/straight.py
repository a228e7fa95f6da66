"""Paths without a jump, and the proof that no jump would pay.

Most takes keep to the click. For them the search over all shifts is spared: the best path that
only creeps is found in a narrow band, and then it is shown that no stretch of the music, at any
other shift within reach, earns as much more as the jump there costs. The bound is generous (note
by note the best of the shifts around), so where it holds the wide search would find the same path.
"""

import numpy as np

from ear.matching.grid import BAR_START_DISCOUNT, BIN_S, JUMP_COST, REACH_S, Ints, OnsetGrid, Scores

PAYS_FROM = 0.95 * (JUMP_COST - BAR_START_DISCOUNT)
"""Notes gained by one stretch elsewhere that are worth the wide search: a little less than the
cheapest jump costs. Several stretches take as many jumps at least, so none can share one."""
COARSE_STEP = 3
"""Bins between the shifts at which gains are looked at."""
BESIDE_BINS = round(REACH_S / BIN_S) // 2 + COARSE_STEP
"""So near to the path creep is cheaper than a jump."""
NOTHING = np.float32(-1e9)


def creep_scores(
    rewards: Scores, *, before: Scores, creep_cost: float, jump_cost: float | None = None
) -> tuple[Scores, Scores]:
    """Return the best score on arriving at each moment and shift, before and after its own reward.

    `rewards` and both results: (moments, shifts); `before`: (shifts,), the score of beginning at each.
    From each moment to the next the shift moves by one at most, at `creep_cost`, or anywhere at
    `jump_cost`, if there is one.
    """
    play, arrived = np.empty_like(rewards), np.empty_like(rewards)
    framed = np.full(rewards.shape[1] + 2, NOTHING)
    lowered, left, right = framed[1:-1], framed[:-2], framed[2:]
    for earned, here, after in zip(rewards, arrived, play, strict=True):
        np.subtract(before, creep_cost, out=lowered)
        np.maximum(left, right, out=here)
        np.maximum(here, before, out=here)
        if jump_cost is not None:
            np.maximum(here, before.max() - jump_cost, out=here)
        before = np.add(here, earned, out=after)
    return arrived, play


def no_jump_pays(grid: OnsetGrid, *, at: Ints, earned: Scores, low: int, width: int) -> bool:
    """Return whether no stretch at another shift, low <= shift < low + width, earns enough to pay for a jump.

    at, earned: (moments,), the path's shift in bins and what it earns at each moment. Finds the
    largest sum of gains over any stretch of moments (Kadane's scheme, all shifts at once).
    Time and memory O(moments x width / COARSE_STEP).
    """
    # An upper bound of what any stretch could gain at another shift. If it does not pay, the wide search
    # would find nothing.
    gain = grid.rewards(low=low, width=width, step=COARSE_STEP)
    gain -= earned[:, None]
    shifts = low + COARSE_STEP * np.arange(gain.shape[1])
    # Shifts beside the path are reached by creep without a jump, so they must not count as a gain of
    # jumping.
    first = np.searchsorted(shifts, at - BESIDE_BINS)
    beside = first[:, None] + np.arange(2 * BESIDE_BINS // COARSE_STEP + 1)[None, :]
    beside = np.minimum(beside, len(shifts) - 1)
    rows = np.arange(len(at))[:, None]
    gain[rows, beside] = np.minimum(gain[rows, beside], 0.0)
    total = np.zeros((len(at) + 1, len(shifts)), dtype=np.float32)
    np.cumsum(gain, axis=0, out=total[1:])
    # The largest sum over a stretch is the largest rise of the running sum.
    total -= np.minimum.accumulate(total, axis=0)
    return float(total.max()) < PAYS_FROM
