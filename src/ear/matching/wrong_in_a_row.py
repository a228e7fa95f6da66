"""Wrong notes in a row that are the right ones at another shift: between two stops close together a path saves itself a jump.

A jump costs as much as some wrong notes, so that a few notes between two stops may be held against their neighbours.
Where all of them are there, at one shift, a listener hears them.
"""

import numpy as np

from ear.matching.attempts import most_at_one_shift
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT

MIN_IN_A_ROW = 2
MAX_S = 2.0
"""Further from where they are expected they are looked for no more."""
ALL_SHARE = 0.75
"""Of the notes in a row that are there."""


def link_wrong_in_a_row(matcher: Matcher, best: Hypothesis) -> None:
    """Link such notes with the take notes that are theirs."""
    links, pitch = best.links, matcher.played.pitch - best.transposition
    for first, after in _in_a_row(links.is_wrong.tolist()):
        row = np.arange(first, after)
        freed = np.isin(np.arange(len(pitch)), links.take_of[row]) | (links.target_of == ABSENT)
        there = np.flatnonzero(freed)
        expected = matcher.take_s[links.take_of[row]]
        shift = (
            matcher.take_s[there][None, :] - matcher.target.time[row][:, None] * matcher.seconds_per_quarter
        )
        near = np.abs(matcher.take_s[there][None, :] - expected[:, None]) <= MAX_S
        same = matcher.target.pitch[row][:, None] == pitch[there][None, :]
        one_shift = most_at_one_shift(np.where(same & near, shift, np.nan))
        if one_shift.sum() < max(MIN_IN_A_ROW, ALL_SHARE * len(row)):
            continue
        middle = float(np.nanmedian(np.where(same & near, shift, np.nan)[one_shift]))
        links.target_of[links.take_of[row]] = ABSENT
        links.take_of[row], links.is_wrong[row] = ABSENT, False
        for k in np.flatnonzero(one_shift).tolist():
            own = np.where(same[k] & near[k], np.abs(shift[k] - middle), np.inf)
            take = int(there[int(np.argmin(own))])
            if links.target_of[take] == ABSENT:
                links.link(int(row[k]), take)


def _in_a_row(flags: list[bool]) -> list[tuple[int, int]]:
    """First and one past the last of each stretch of flags."""
    stretches: list[tuple[int, int]] = []
    for k, flag in enumerate(flags):
        if not flag:
            continue
        if stretches and stretches[-1][1] == k:
            stretches[-1] = (stretches[-1][0], k + 1)
        else:
            stretches.append((k, k + 1))
    return [(first, after) for first, after in stretches if after - first >= MIN_IN_A_ROW]
