"""Where else a jump could have been, among bars alike; and a path moved to where a listener says that it was.

A bar that is left out among bars alike may be any of them, and so may a bar that was played once more: each of these
stories links as many notes, as surely, and costs the same. The search tells one; here the others are found, and a path is
made to tell one of them.

Let a jump go from moment a to moment b, and `lag` be its size in quarters. It can be moved on by a moment if that moment
sounds as the one a lag before it: the notes that were linked behind the jump are linked before it then. For a jump ahead
these moments begin at b; for a jump back, whose passage b to a is played twice, behind a.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.outcome import Slip
from ear.matching.search import relinked
from ear.matching.slips import own_time


def landed_elsewhere(matcher: Matcher, moved: Hypothesis, landings: Mapping[int, int]) -> Hypothesis:
    """Return the hypothesis with jumps landing where a teacher heard them.

    `landings` gives the chosen note by the first of the notes at which a jump could land. Unknown jumps and
    impossible notes are ignored.
    """
    for first, chosen in sorted(landings.items()):
        # Slips are named anew after each move: moving one jump can change what the next one could be.
        _pace, slips = own_time(matcher, moved)
        slip = next((s for s in slips if s.could_land[:1] == (first,)), None)
        if slip is not None and chosen in slip.could_land:
            moved = _moved(matcher, moved, slip, int(matcher.note_moment[chosen]))
    return moved


def _moved(matcher: Matcher, hypothesis: Hypothesis, slip: Slip, there: int) -> Hypothesis:
    """With the jump of a slip at another moment."""
    path = hypothesis.path
    shift, run = path.shift.copy(), path.run.copy()
    here = int(matcher.note_moment[slip.target])
    if here == there:
        return hypothesis
    after = int(run[here])
    before = int(run[:here][(run[:here] >= 0) & (run[:here] < after)].max())
    shift_before, shift_after = (float(np.median(shift[run == k])) for k in (before, after))
    # Notes between the old and the new place change runs; those that the jump leaves out are silent.
    lag = max(0.0, shift_before - shift_after)
    moments = matcher.moments
    for m in range(
        int(np.searchsorted(moments, moments[min(here, there)] - lag - 1e-3)), max(here, there) + 1
    ):
        if m >= there:
            shift[m], run[m] = shift_after, after
        elif moments[m] >= moments[there] - lag - 1e-3:
            shift[m], run[m] = np.nan, -1
        else:
            shift[m], run[m] = shift_before, before
    moved = matcher.along_path(
        replace(path, shift=shift, run=run), matcher.transposed(hypothesis.transposition),
        clock=hypothesis.clock, transposition=hypothesis.transposition,
    )  # fmt: skip
    return relinked(matcher, replace(moved, worth=hypothesis.worth))
