"""A pass played over the first: recorded twice, one on top of the other.

A note that belongs to none, of the pitch of a linked one and close beside it, is its twin. Here and there one is a second
trigger; where most notes of the music have one for some moments on end, before and behind their fellows, somebody has
played along with a take that was already there.
"""

import numpy as np
from numpy.typing import NDArray

from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT

TWIN_S = 0.1
MIN_MOMENTS = 4
"""Moments on end that a pass is told from."""
TWINS_SHARE = 0.7
"""Of the notes of these moments that have a twin."""
BEFORE_SHARE = 0.1
"""Of the twins that come before their fellows: a pad that triggers twice does so afterwards,"""
STRONG_SHARE = 0.75
"""and more softly: in the middle, of their fellows' velocity."""


def overlaid(matcher: Matcher, hypothesis: Hypothesis, free: NDArray[np.bool_]) -> dict[int, int]:
    """Return, for each take note of a pass over the first, the target note that it doubles.

    `free` has shape (take notes,) and marks notes that belong to none.
    """
    twin_of = _twins(matcher, hypothesis, free)
    if len(twin_of) < MIN_MOMENTS:
        return {}
    has_twin = np.zeros(len(matcher.target), dtype=bool)
    has_twin[list(twin_of.values())] = True
    linked = hypothesis.links.take_of != ABSENT
    moments = len(matcher.moments)
    of_all = np.bincount(matcher.note_moment, linked, moments)
    of_twins = np.bincount(matcher.note_moment, has_twin, moments)
    inside = (of_twins > 0) & (of_twins >= TWINS_SHARE * of_all)
    twins: dict[int, int] = {}
    for first, after in _stretches(inside):
        here = {j: i for j, i in twin_of.items() if first <= matcher.note_moment[i] < after}
        if after - first >= MIN_MOMENTS and _is_played(matcher, hypothesis, here):
            twins |= here
    return twins


def _is_played(matcher: Matcher, hypothesis: Hypothesis, twin_of: dict[int, int]) -> bool:
    """By hand, and not by a pad or a key that triggers twice: some come before, or they are as strong."""
    twins = np.array(list(twin_of))
    fellows = hypothesis.links.take_of[list(twin_of.values())]
    ahead = matcher.take_s[twins] < matcher.take_s[fellows]
    strength = matcher.take.velocities[twins] / matcher.take.velocities[fellows]
    return float(ahead.mean()) >= BEFORE_SHARE or float(np.median(strength)) >= STRONG_SHARE


def _twins(matcher: Matcher, hypothesis: Hypothesis, free: NDArray[np.bool_]) -> dict[int, int]:
    """By take note the target note whose fellow it stands beside; the nearest one of each."""
    pitch = matcher.struck_in(hypothesis.transposition).pitch
    taken: dict[int, tuple[float, int]] = {}
    for j in np.flatnonzero(free).tolist():
        low, high = np.searchsorted(matcher.take_s, [matcher.take_s[j] - TWIN_S, matcher.take_s[j] + TWIN_S])
        for k in range(int(low), int(high)):
            target = int(hypothesis.links.target_of[k])
            if target == ABSENT or pitch[k] != pitch[j]:
                continue
            away = abs(float(matcher.take_s[k] - matcher.take_s[j]))
            if target not in taken or away < taken[target][0]:
                taken[target] = (away, j)
    return {j: target for target, (_, j) in taken.items()}


def _stretches(inside: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Runs of moments inside, with one outside between them at most; (first, after)."""
    stretches: list[tuple[int, int]] = []
    for m in np.flatnonzero(inside).tolist():
        if stretches and m - stretches[-1][1] <= 1:
            stretches[-1] = (stretches[-1][0], m + 1)
        else:
            stretches.append((m, m + 1))
    return stretches
