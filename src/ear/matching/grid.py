"""Target and take on bins of one width, so that every shift is read off by an offset."""

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Scores = NDArray[np.float32]

BIN_S = 0.02
"""Grid of shifts: finer than the reward's bump, coarse enough to be quick."""
REACH_S = 0.14
"""A note rewards no shift from here on: beyond it, listeners hear another place in the bar."""
ANY_PITCH_REWARD = 0.25
"""A wrong key in the right place is still evidence of the place."""
JUMP_COST = 2.6
"""Notes that a jump must gain: two could be chance, three in a row are not."""
BAR_START_DISCOUNT = 0.6
"""People go back to, and jump to, the start of a bar: such a jump needs less evidence. It lands
on the bar's first note, which may come after a rest."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Onsets:
    """Notes as arrays, in order of (time, pitch): time in quarters, pitch or lane number."""

    time: Floats
    pitch: Ints

    def __len__(self) -> int:
        return len(self.time)


@dataclass(frozen=True, slots=True, kw_only=True)
class OnsetGrid:
    """The target's moments and the take's onsets on bins of one width, in quarters."""

    bin_quarters: float
    moment_quarters: Floats
    moment_bin: Ints
    note_moment: Ints
    note_row: Ints
    """For each target note, its pitch's row in `reward`."""
    reward: Scores
    """Shape (pitches of the target, bins of the take)."""
    jump_cost: Scores
    """Cost of a jump that lands on each moment."""
    bar_firsts: Ints
    """The first moment of each bar that has one."""
    take_bins: int
    reach_bins: int

    @property
    def apart(self) -> int:
        """Bins that a jump keeps from the last note used, so that it is not used again."""
        return self.reach_bins // 2

    def earned(self, shift: Floats) -> Floats:
        """Return the summed reward of each moment at a shift of its own, in quarters.

        Both have shape (moments,).
        """
        return self._by_moment(self._rewards_at(shift))

    def met(self, shift: Floats) -> Floats:
        """Return the same as `earned`, from notes of the written pitch alone."""
        reward = self._rewards_at(shift)
        return self._by_moment(np.where(reward > ANY_PITCH_REWARD, reward, 0.0))

    def _rewards_at(self, shift: Floats) -> Floats:
        """(notes,) each at the shift of its moment."""
        # A shift that leads outside the take earns nothing, rather than reading another note's bin.
        at = self.moment_bin + np.round(shift / self.bin_quarters).astype(np.int64)
        at = at[self.note_moment]
        inside = (at >= 0) & (at < self.take_bins)
        rewards: Floats = np.where(inside, self.reward[self.note_row, np.where(inside, at, 0)], 0.0)
        return rewards

    def _by_moment(self, reward: Floats) -> Floats:
        sums: Floats = np.bincount(self.note_moment, reward, len(self.moment_bin)).astype(np.float64)
        return sums

    def rewards(self, *, low: int, width: int, step: int = 1) -> Scores:
        """Return the summed reward of each moment at the shifts low, low + step, … below low + width.

        Shape (moments, shifts). With a step (odd) each entry is, note by note, the best of the
        `step` shifts around: no less than what any of them earns.
        """
        half = step // 2
        # Only what the moments can meet is looked at, with nothing where the take is not.
        first, last = int(self.moment_bin[0]) + low - half, int(self.moment_bin[-1]) + low + width + half
        padded = np.zeros((len(self.reward), last - first), dtype=np.float32)
        begins, ends = max(0, first), min(last, self.take_bins)
        if begins < ends:
            padded[:, begins - first : ends - first] = self.reward[:, begins:ends]
        # A running maximum of `step` shifts makes the coarse entries upper bounds, which the proof in
        # `straight.py` needs.
        if half:
            size = padded.shape[1] - 2 * half
            around, padded = padded, padded[:, :size].copy()
            for k in range(1, step):
                np.maximum(padded, around[:, k : k + size], out=padded)
        at = (self.moment_bin - self.moment_bin[0])[self.note_moment]
        # Each row of windows is the padded reward seen from one shift on; no data is copied.
        windows = sliding_window_view(padded, width, axis=1)[:, :, ::step]
        first_of_moment = np.flatnonzero(np.diff(self.note_moment, prepend=-1))
        place_in_moment = np.arange(len(at)) - first_of_moment[self.note_moment]
        # Moments hold few notes: add first notes, second notes, …; quicker than sums by moment.
        total: Scores = windows[self.note_row[first_of_moment], at[first_of_moment]]
        for k in range(1, int(place_in_moment.max(initial=0)) + 1):
            note = np.flatnonzero(place_in_moment == k)
            total[self.note_moment[note]] += windows[self.note_row[note], at[note]]
        return total


def distinct(values: Ints) -> Ints:
    """Return the values that occur, ascending. For few values this is quicker than numpy's own."""
    return np.array(sorted(set(values.tolist())), dtype=np.int64)


def moments_of(time: Floats) -> tuple[Floats, Ints]:
    """Return the distinct times, and for each note the index of its own. The times must be sorted."""
    if len(time) == 0:
        return np.zeros(0), np.zeros(0, dtype=np.int64)
    starts = np.concatenate(([True], np.diff(time) > 1e-6))
    return time[starts], np.cumsum(starts) - 1


def make_grid(target: Onsets, take: Onsets, *, quarters_per_second: float, bar_starts: Floats) -> OnsetGrid:
    """Return target and take on one grid of bins, with times that are the player's own. Both have at least one note.

    `bar_starts` are the quarters at which the target's bars begin.
    """
    width = BIN_S * quarters_per_second
    moments, note_moment = moments_of(target.time)
    reach = round(REACH_S / BIN_S)
    pitches = distinct(target.pitch)
    take_bin = np.round(take.time / width).astype(np.int64)
    lowest = min(int(take_bin[0]), 0)
    size = int(take_bin[-1]) - lowest + 1 + 2 * reach
    place = take_bin - lowest
    row_of = np.minimum(np.searchsorted(pitches, take.pitch), len(pitches) - 1)
    # Pitches that the target never has earn only what any pitch does.
    known = pitches[row_of] == take.pitch
    # A flat index writes the bumps of all notes at once.
    own = row_of[known] * size + place[known]
    reward = np.zeros((len(pitches), size), dtype=np.float32)
    anywhere = np.zeros(size, dtype=np.float32)
    flat = reward.reshape(-1)
    # From the bump's feet to its top: where two meet, the higher is written last.
    for step in sorted(range(2 * reach + 1), key=lambda step: -abs(step - reach)):
        height = 1.0 - ((step - reach) / reach) ** 2
        anywhere[place + step] = height
        flat[own + step] = height
    # Where nothing sounds, for minutes perhaps, there is nothing to be done.
    sounds = np.flatnonzero(anywhere)
    reward[:, sounds] = np.maximum(reward[:, sounds], ANY_PITCH_REWARD * anywhere[sounds])
    bar_firsts = distinct(np.searchsorted(moments, bar_starts[bar_starts <= moments[-1]]))
    jump_cost = np.full(len(moments), JUMP_COST, dtype=np.float32)
    # Players go back to bar lines, so a jump there is a little cheaper.
    jump_cost[bar_firsts] -= BAR_START_DISCOUNT
    # Bin k of `reward` stands for take time (k - reach + lowest): moments are counted from there.
    return OnsetGrid(
        bin_quarters=width,
        moment_quarters=moments,
        moment_bin=np.round(moments / width).astype(np.int64) + reach - lowest,
        note_moment=note_moment,
        note_row=np.searchsorted(pitches, target.pitch),
        reward=reward,
        jump_cost=jump_cost,
        bar_firsts=bar_firsts,
        take_bins=size,
        reach_bins=reach,
    )
