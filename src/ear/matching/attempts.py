"""What was played in the gap before a jump forward: tries of the music to come, or a key put right."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.matching.grid import REACH_S, Floats
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT

MIN_TRIED = 2
"""Notes of a try."""
TRY_SHARE = 0.25
"""Of the notes of a gap, from which some of them are a try of their own."""
BACK_BARS = 1.0
"""A try may have begun so far before the place where it was at last gone on."""
MAX_PUT_RIGHT = 2
"""Notes of a gap that may be wrong keys, put right at once."""
PUT_RIGHT_S = 1.6
"""The right key comes no later after the wrong one."""
IN_PLACE_S = 0.25
"""And the wrong one was where the right one should have been."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """Take notes that belong to no target, between the last note before a jump and the first after it."""

    notes: NDArray[np.bool_]
    landing_s: float
    """When the first note after it was played."""


def gap_before(matcher: Matcher, hypothesis: Hypothesis, target: int) -> Gap:
    """Return the gap before the jump to a target note."""
    links = hypothesis.links
    earlier = links.take_of[:target]
    start = matcher.take_s[earlier[earlier != ABSENT]].max(initial=-np.inf)
    end = float(matcher.take_s[links.take_of[target]])
    inside = (matcher.take_s > start) & (matcher.take_s < end - 1e-6) & (links.target_of == ABSENT)
    return Gap(notes=inside, landing_s=end)


def tries(matcher: Matcher, hypothesis: Hypothesis, gap: Gap, target: int) -> tuple[float, int]:
    """Return which share of a gap's notes are the target's own, from about the landing on, and in how many tries.

    A try is notes that stand at one shift from the target; the notes of the gap are given to tries greedily, the one
    that explains most of them first. Wrong notes among them belong to none.
    """
    played_s, pitch = matcher.take_s[gap.notes], matcher.played.pitch[gap.notes] - hypothesis.transposition
    if len(played_s) < MIN_TRIED:
        return 0.0, 0
    at = matcher.target.time - matcher.target.time[target]
    bar = matcher.part.meters.first.bar_quarters
    reach = (gap.landing_s - float(played_s[0])) * matcher.quarters_per_second
    near = (at >= -BACK_BARS * bar - 1e-6) & (at <= reach + bar)
    wanted_s = hypothesis.clock.take_at(matcher.target.time[near]) * matcher.seconds_per_quarter
    same = pitch[:, None] == matcher.target.pitch[near][None, :]
    shift = np.where(same, played_s[:, None] - wanted_s[None, :], np.nan)
    explained, count = 0, 0
    waiting = np.ones(len(played_s), dtype=bool)
    while True:
        one_try = most_at_one_shift(shift[waiting])
        if one_try.sum() < max(MIN_TRIED, TRY_SHARE * len(played_s)):
            break
        explained, count = explained + int(one_try.sum()), count + 1
        waiting[np.flatnonzero(waiting)[one_try]] = False
    return explained / len(played_s), count


def most_at_one_shift(shift: Floats) -> NDArray[np.bool_]:
    """Return which rows have an entry within reach of the shift that most rows have; shape (notes, targets), NaN for none."""
    all_shifts = shift[~np.isnan(shift)]
    best = np.zeros(len(shift), dtype=bool)
    for middle in np.unique(np.round(all_shifts / REACH_S)) * REACH_S:
        here = np.any(np.abs(shift - middle) < REACH_S, axis=1)
        if here.sum() > best.sum():
            best = here
    return best


def puts_right(matcher: Matcher, hypothesis: Hypothesis, gap: Gap, target: int) -> bool:
    """Return whether a gap is a wrong key that was put right: one where the landing note was expected, and the right one
    soon after."""
    played_s = matcher.take_s[gap.notes]
    if not 0 < len(played_s) <= MAX_PUT_RIGHT:
        return False
    before = np.flatnonzero(hypothesis.links.take_of[:target] != ABSENT)
    if not len(before):
        return False
    # By his own clock the landing note follows the one before as it is written.
    clock, scale = hypothesis.clock, matcher.quarters_per_second
    from_s = float(matcher.take_s[hypothesis.links.take_of[before[-1]]])
    due = (
        clock.own_at(np.array(from_s * scale)) + matcher.target.time[target] - matcher.target.time[before[-1]]
    )
    expected_s = float(clock.take_at(due)) / scale
    pitch = matcher.played.pitch[gap.notes] - hypothesis.transposition
    here = np.abs(matcher.target.time - matcher.target.time[target]) < 1e-6
    is_wrong = ~np.isin(pitch, matcher.target.pitch[here])
    return bool(
        is_wrong.all()
        and np.all(np.abs(played_s - expected_s) < IN_PLACE_S)
        and gap.landing_s - float(played_s[0]) < PUT_RIGHT_S
    )
