"""Names for all rows: matched, wrong key, missed; double, graze, abandoned try, extra."""

import numpy as np
from numpy.typing import NDArray

from ear.matching.attempts import gap_before
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.ornaments import ornaments_played
from ear.matching.outcome import Outcome, Pair, Slip, SlipKind
from ear.matching.overlaid import overlaid
from ear.matching.pairing import ABSENT, PUT_RIGHT_S, WRONG_REACH_S, is_double, is_graze, previous_of_pitch

MIN_LATE_S = 0.06
"""A right key that comes no later than this after its place was not kept waiting by a wrong one."""
TARGET_OUTCOMES = (Outcome.MISSED, Outcome.WRONG_PITCH, Outcome.MATCHED)


def name_rows(matcher: Matcher, hypothesis: Hypothesis, slips: tuple[Slip, ...]) -> tuple[Pair, ...]:
    """Return one row for each target note, in order, then one for each take note left."""
    links = hypothesis.links
    outcomes = np.where(links.take_of == ABSENT, 0, np.where(links.is_wrong, 1, 2))
    rows = [
        Pair(i, None if take == ABSENT else take, TARGET_OUTCOMES[outcome])
        for i, (take, outcome) in enumerate(zip(links.take_of.tolist(), outcomes.tolist(), strict=True))
    ]
    return (*rows, *_left_over(matcher, hypothesis, slips))


def _left_over(matcher: Matcher, hypothesis: Hypothesis, slips: tuple[Slip, ...]) -> list[Pair]:
    links, take, take_s = hypothesis.links, matcher.struck_in(hypothesis.transposition), matcher.take_s
    linked = links.target_of != ABSENT
    if linked.all():
        return []
    doubles = is_double(take, take_s=take_s, links=links)
    grazes = is_graze(
        take,
        take_s=take_s,
        length_s=matcher.take.lengths_s,
        velocity=matcher.take.velocities,
        links=links,
    )
    before = previous_of_pitch(take, usable=linked)
    abandoned = _in_gaps(matcher, hypothesis, slips, (SlipKind.RESTART, SlipKind.REPEAT_ADDED))
    put_right = {
        int(j): slip.target
        for slip in slips
        if slip.kind is SlipKind.PUT_RIGHT
        for j in np.flatnonzero(gap_before(matcher, hypothesis, slip.target).notes)
    }
    rows = []
    put_right |= _put_right_in_time(matcher, hypothesis, ~linked & ~abandoned & ~doubles & ~grazes)
    # Order matters: a second pass explains many notes at once, an ornament a few, a double one. What is
    # left is an extra note.
    over = overlaid(matcher, hypothesis, ~linked & ~abandoned)
    free = ~linked & ~abandoned
    free[list(put_right)] = False
    free[list(over)] = False
    ornaments = ornaments_played(matcher, hypothesis, free, brushed=grazes | doubles)
    for j in np.nonzero(~linked)[0].tolist():
        if j in put_right:
            rows.append(
                Pair(target=None, take=j, outcome=Outcome.EXTRA, near=put_right[j], is_put_right=True)
            )
        elif j in over:
            rows.append(Pair(target=None, take=j, outcome=Outcome.EXTRA, near=over[j], is_overlaid=True))
        elif j in ornaments:
            ornament, near = ornaments[j]
            rows.append(Pair(target=None, take=j, outcome=Outcome.EXTRA, near=near, ornament=ornament))
        elif doubles[j]:
            near = int(links.target_of[before[j]])
            rows.append(Pair(target=None, take=j, outcome=Outcome.DOUBLE, near=near))
        else:
            rows.append(
                Pair(
                    target=None,
                    take=j,
                    outcome=Outcome.EXTRA,
                    near=_nearest(matcher, hypothesis, j) if grazes[j] else None,
                    is_graze=bool(grazes[j]) and not abandoned[j],
                    is_abandoned=bool(abandoned[j]),
                )
            )
    return rows


def _nearest(matcher: Matcher, hypothesis: Hypothesis, j: int) -> int:
    linked = np.nonzero(hypothesis.links.target_of != ABSENT)[0]
    nearest = linked[np.argmin(np.abs(matcher.take_s[linked] - matcher.take_s[j]))]
    return int(hypothesis.links.target_of[nearest])


def _in_gaps(
    matcher: Matcher, hypothesis: Hypothesis, slips: tuple[Slip, ...], kinds: tuple[SlipKind, ...]
) -> NDArray[np.bool_]:
    """Take notes in the gaps before slips of some kinds: what was played there is played again."""
    flags = np.zeros(len(matcher.take_s), dtype=bool)
    for slip in slips:
        if slip.kind in kinds:
            flags |= gap_before(matcher, hypothesis, slip.target).notes
    return flags


def _put_right_in_time(
    matcher: Matcher, hypothesis: Hypothesis, candidates: NDArray[np.bool_]
) -> dict[int, int]:
    """Wrong keys that stand where a note was expected which follows at once, and is late: with the target note of each."""
    links, take_s = hypothesis.links, matcher.take_s
    expected_s = matcher.places(hypothesis.path, hypothesis.clock).expected_s
    right = np.flatnonzero(links.target_is_right & ~np.isnan(expected_s))
    played_s = take_s[links.take_of[right]]
    late = played_s - expected_s[right]
    put_right: dict[int, int] = {}
    for j in np.flatnonzero(candidates).tolist():
        off = np.abs(take_s[j] - expected_s[right])
        follows = (played_s > take_s[j]) & (played_s <= take_s[j] + PUT_RIGHT_S)
        fits = np.flatnonzero(follows & (late >= MIN_LATE_S) & (off < late) & (off < WRONG_REACH_S))
        if len(fits):
            put_right[j] = int(right[fits[np.argmin(off[fits])]])
    return put_right
