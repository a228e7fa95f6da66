"""The last note or chord, held back: one moment is too little for the path to jump for, but nothing comes after it."""

from dataclasses import replace

import numpy as np

from ear.matching.grid import REACH_S
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT

MAX_BEATS = 2.25
"""Later than that, a note has nothing to do with the end."""
NEAR_MOMENTS = 3
"""The player was there still: one of so many moments before the last one was played."""


def with_last_note(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """Return the hypothesis with the last moment linked, where it was played late by itself; the same one where not."""
    last = len(matcher.moments) - 1
    wanted = np.flatnonzero(matcher.note_moment == last)
    played_before = np.flatnonzero(best.links.take_of[: wanted[0]] != ABSENT)
    if (
        last < 1
        or (best.links.take_of[wanted] != ABSENT).any()
        or not len(played_before)
        or matcher.note_moment[played_before[-1]] < last - NEAR_MOMENTS
    ):
        return best
    path = best.path
    shift_before = float(path.shift[~np.isnan(path.shift)][-1])
    expected_s, latest_s = (
        float(best.clock.take_at(np.array(matcher.moments[last] + shift_before + late)))
        * matcher.seconds_per_quarter
        for late in (0.0, MAX_BEATS * matcher.part.bars[-1].meter.beat_ticks / 480)
    )
    pitch = matcher.played.pitch - best.transposition
    there = (
        (best.links.target_of == ABSENT)
        & (matcher.take_s > expected_s + REACH_S)
        & (matcher.take_s <= latest_s)
    )
    there &= matcher.take_s > matcher.take_s[best.links.take_of[played_before]].max()
    played_late = {
        target: int(np.flatnonzero(there & (pitch == matcher.target.pitch[target]))[0])
        for target in wanted.tolist()
        if (there & (pitch == matcher.target.pitch[target])).any()
    }
    if 2 * len(played_late) < len(wanted):
        return best
    for target, take in played_late.items():
        best.links.link(target, take)
    shift, run = path.shift.copy(), path.run.copy()
    own = best.clock.own_at(
        np.array(min(matcher.take_s[list(played_late.values())]) * matcher.quarters_per_second)
    )
    shift[last], run[last] = float(own) - matcher.moments[last], int(run.max()) + 1
    return replace(best, path=replace(path, shift=shift, run=run))
