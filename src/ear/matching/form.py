"""Passages that the music has twice: where a take leaves one of them out, or plays one more, which one is told.

Where a passage is followed by itself, a take that plays it once may have left out either, or the end of the one and the
beginning of the other: the notes say nothing of it. A listener says that the repeat was left out. So a jump ahead from a
passage into its repeat lands where the two part, and who seems to begin with the repeat begins at the beginning.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ear.matching.grid import Floats
from ear.matching.runs import Path

NEAR = 0.2
"""Quarters by which a jump may miss a passage's length."""
MIN_BARS = 2.0
"""A passage that is repeated has so many bars at least."""
ALIKE_SHARE = 0.9
"""Of the moments of a passage that are in its repeat, too."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RepeatForm:
    """The target's moments in quarters, and a number for what sounds at each: those with one number are alike."""

    moments: Floats
    sounds: NDArray[np.int64]
    bar_quarters: float

    @classmethod
    def of(
        cls, moments: Floats, note_moment: NDArray[np.int64], pitch: NDArray[np.int64], bar_quarters: float
    ) -> "RepeatForm":
        """Return the form of a target. `note_moment` and `pitch` have shape (notes,)."""
        known: dict[tuple[int, ...], int] = {}
        edges = np.searchsorted(note_moment, np.arange(len(moments) + 1)).tolist()
        sounds = [
            known.setdefault(tuple(sorted(pitch[a:b].tolist())), len(known)) for a, b in pairwise(edges)
        ]
        return cls(moments=moments, sounds=np.array(sounds, dtype=np.int64), bar_quarters=bar_quarters)

    def alike(self, lag: float) -> NDArray[np.bool_]:
        """Return, for each moment, whether the same sounds one `lag` before it. Shape (moments,)."""
        at = np.searchsorted(self.moments, self.moments - lag - 1e-3)
        there = np.minimum(at, len(self.moments) - 1)
        flags: NDArray[np.bool_] = (np.abs(self.moments[there] - (self.moments - lag)) < 1e-3) & (
            self.sounds[there] == self.sounds
        )
        return flags

    def lag_at(self, moment: int, size: float) -> float | None:
        """Return the exact lag, in quarters and near `size`, by which a moment repeats another; None if it
        repeats none.
        """
        near = np.flatnonzero(np.abs(self.moments[moment] - self.moments - size) < NEAR)
        near = near[self.sounds[near] == self.sounds[moment]]
        if not len(near):
            return None
        lags = self.moments[moment] - self.moments[near]
        return float(lags[np.argmin(np.abs(lags - size))])

    def span(self, first: int, lag: float) -> tuple[int, int]:
        """Return the range of moments around `first` in which everything sounds as it did one lag before."""
        alike = self.alike(lag)
        begins = first - int(np.argmin(np.append(alike[:first][::-1], False)))
        return begins, first + int(np.argmin(np.append(alike[first:], False)))

    def is_repeat(self, first: float, after: float) -> bool:
        """Return whether the stretch from `first` to `after`, in quarters, is the same as the one just before
        or just after it.
        """
        length = after - first
        if length < MIN_BARS * self.bar_quarters - 1e-6:
            return False
        inside = (self.moments >= first - 1e-3) & (self.moments < after - 1e-3)
        behind = (self.moments >= after - 1e-3) & (self.moments < after + length - 1e-3)
        alike = self.alike(length)
        return any(len(here) and float(here.mean()) >= ALIKE_SHARE for here in (alike[inside], alike[behind]))


def at_repeats(path: Path, form: RepeatForm, is_played: NDArray[np.bool_]) -> Path:
    """Return the path with forward jumps landing where a passage and its repeat part; the same path if there
    are none.

    `is_played` has shape (moments,) and marks moments with a linked note. A run begins with the first of them.
    """
    shift, run = path.shift.copy(), path.run.copy()
    for k in set(run[run >= 0].tolist()):
        here = np.flatnonzero(run == k)
        idle = here[: int(np.argmax(is_played[here]))]
        shift[idle], run[idle] = np.nan, -1
    runs = sorted(set(run[run >= 0].tolist()))
    changed = False
    for k in runs:
        here = np.flatnonzero(run == k)
        before = np.flatnonzero(run == k - 1) if k else np.zeros(0, dtype=np.int64)
        # Who begins elsewhere than at the beginning, as if from there.
        from_shift = float(np.median(shift[before])) if len(before) else 0.0
        size = from_shift - float(np.median(shift[here]))
        landing = int(here[0])
        if size < MIN_BARS * form.bar_quarters - NEAR:
            continue
        lag = form.lag_at(landing, size)
        if lag is None:
            continue
        alike = form.alike(lag)
        parts = landing + int(np.argmin(np.append(alike[landing : here[-1] + 1], False)))
        begins = landing - int(np.argmin(np.append(alike[landing::-1], False))) + 1
        ends = form.moments[parts] if parts < len(form.moments) else form.moments[-1] + form.bar_quarters
        if parts - landing < 2 or ends - form.moments[begins] < ALIKE_SHARE * lag:
            continue
        earlier = np.flatnonzero(
            (form.moments >= form.moments[landing] - lag - 1e-3)
            & (form.moments < (form.moments[parts] if parts < len(form.moments) else np.inf) - lag - 1e-3)
        )
        moved = np.clip(np.arange(landing, parts), 0, len(shift) - 1)
        shift[moved], run[moved] = np.nan, -1
        shift[earlier], run[earlier] = from_shift, k - 1 if len(before) else -2
        changed = True
    if not changed:
        return path
    # Runs are numbered along the target.
    begins = (np.diff(run, prepend=-1) != 0) & (run != -1)
    numbered = np.where(run != -1, np.cumsum(begins) - 1, -1)
    return Path(score=path.score, shift=shift, run=_joined(numbered, shift))


def _joined(run: NDArray[np.int64], shift: Floats) -> NDArray[np.int64]:
    """Runs that go on at one shift after a silence are one."""
    joined = run.copy()
    for k in range(1, int(run.max(initial=-1)) + 1):
        here, before = np.flatnonzero(joined == k), np.flatnonzero(run < k)
        before = before[run[before] >= 0]
        if len(here) and len(before) and abs(shift[here[0]] - shift[before[-1]]) < NEAR / 2:
            joined[here] = joined[before[-1]]
    _, numbered = np.unique(joined[joined >= 0], return_inverse=True)
    joined[joined >= 0] = numbered
    return joined
