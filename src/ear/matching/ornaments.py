"""Ornaments as they are played: notes that belong to none of the part's, but stand about one of them as a group.

Each linked note gathers the unlinked notes about it that go on from one to the next without a gap (`GAP_S`): on drums
strokes of its own lane, on keys its own pitch and those up to a third beside it (a grace note may come from further). They
reach no further than the linked notes of the same lane, or of the same pitches, before and behind it. What they are told as
goes by how many they are, where they stand and how they move, as an ear tells them; a group that is nothing of that kind
stays what it was. The small strokes of a flam and of a drag are softer than the stroke they lead to.

Cost: O(notes of the take) but for the search of neighbours, O(log n) each.
"""

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ear.matching.grid import Ints
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT, is_double, previous_of_pitch
from ear.notes import Ornament

GAP_S = 0.2
"""From note to note of a trill or a roll at most."""
FLAM_S, DRAG_S, GRACE_S = 0.06, 0.16, 0.16
"""How long before the main note they begin at most."""
STRONGER = 1.5
"""So many times as strong a stroke is the main one of two."""
NEIGHBOUR, GRACE_FROM = 2, 4
"""Semitones of a neighbouring note; from which a single grace note comes."""
MIN_ROLL, MIN_TREMOLO, MIN_TRILL = 2, 3, 3
"""Notes too many of a roll on a drum, of one key struck again, of a trill at least."""
MAX_GRACES = 3
SHORT_S = 0.2
"""A grace note is let go so soon, or when the main note sounds."""


class InOrnament(NamedTuple):
    """A take note of an ornament: what it is, and about which target note."""

    ornament: Ornament
    near: int


class _Group(NamedTuple):
    """Take notes before the main note and behind it, in order."""

    before: list[int]
    behind: list[int]


def ornaments_played(
    matcher: Matcher, hypothesis: Hypothesis, free: NDArray[np.bool_], *, brushed: NDArray[np.bool_]
) -> dict[int, InOrnament]:
    """Return the ornament of each take note that belongs to one.

    `free` has shape (take notes,) and marks notes that may; the others are linked or belong to an abandoned
    attempt. Notes only brushed or struck twice are no grace notes by themselves.
    """
    if not free.any():
        return {}
    pitch, take_s = matcher.struck_in(hypothesis.transposition).pitch, matcher.take_s
    linked_notes: dict[int, InOrnament] = {}
    has_lanes = matcher.part.instrument.has_lanes
    # An ornament surrounds a note that is linked. Most notes have no free note near them and are passed
    # over at once.
    mains = hypothesis.links.take_of[hypothesis.links.take_of != ABSENT]
    near_free = _has_free_near(take_s, mains, free)
    for main in sorted(mains[near_free].tolist()):
        group = _gathered(
            matcher, pitch, main, free & ~np.isin(np.arange(len(free)), list(linked_notes)), hypothesis
        )
        # Drums know ornaments by strokes before or after the main one; keyboards by neighbouring pitches.
        ornament = _stroke(matcher, group, main) if has_lanes else _sign(matcher, pitch, group, main)
        notes = [*group.before, *group.behind]
        if ornament is None or (ornament is Ornament.GRACE and len(notes) == 1 and brushed[notes[0]]):
            continue
        near = int(hypothesis.links.target_of[main])
        linked_notes |= {j: InOrnament(ornament, near) for j in notes}
    return linked_notes


def link_main_strokes(matcher: Matcher, hypothesis: Hypothesis) -> None:
    """Link, of two strokes of a lane within a flam, the louder one, which is the main stroke.

    The hypothesis is changed in place.
    """
    if not matcher.part.instrument.has_lanes:
        return
    take = matcher.struck_in(hypothesis.transposition)
    velocity, links = matcher.take.velocities, hypothesis.links
    # The first stroke of a flam comes first and is linked first, though the louder second one is meant.
    late = is_double(take, take_s=matcher.take_s, links=links)
    before = previous_of_pitch(take, usable=links.target_of != ABSENT)
    for j in np.flatnonzero(late).tolist():
        first = int(before[j])
        is_flam = matcher.take_s[j] - matcher.take_s[first] <= FLAM_S
        target = int(links.target_of[first])
        if is_flam and target != ABSENT and velocity[j] >= STRONGER * velocity[first]:
            links.target_of[first] = ABSENT
            links.link(target, j)


def _has_free_near(take_s: NDArray[np.float64], mains: Ints, free: NDArray[np.bool_]) -> NDArray[np.bool_]:
    times = take_s[free]
    low = np.searchsorted(times, take_s[mains] - GAP_S)
    high = np.searchsorted(times, take_s[mains] + GAP_S, side="right")
    flags: NDArray[np.bool_] = high > low
    return flags


def _gathered(
    matcher: Matcher, pitch: Ints, main: int, free: NDArray[np.bool_], hypothesis: Hypothesis
) -> _Group:
    reach = 0 if matcher.part.instrument.has_lanes else NEIGHBOUR
    before = list(_chain(matcher, pitch, main, free, hypothesis, step=-1, reach=reach))
    behind = list(_chain(matcher, pitch, main, free, hypothesis, step=1, reach=reach))
    if not before and not behind and reach:
        before = list(_chain(matcher, pitch, main, free, hypothesis, step=-1, reach=GRACE_FROM))[:1]
    return _Group(before[::-1], behind)


def _chain(
    matcher: Matcher,
    pitch: Ints,
    main: int,
    free: NDArray[np.bool_],
    hypothesis: Hypothesis,
    *,
    step: int,
    reach: int,
) -> Iterator[int]:
    """Free notes from the main one on, one after the other, up to a linked note of their own pitches."""
    take_s, at, j = matcher.take_s, matcher.take_s[main], main + step
    while 0 <= j < len(take_s) and abs(take_s[j] - at) <= GAP_S:
        is_near = abs(int(pitch[j]) - int(pitch[main])) <= reach
        if is_near and not free[j]:
            return
        if is_near:
            at = take_s[j]
            yield j
        j += step


def _stroke(matcher: Matcher, group: _Group, main: int) -> Ornament | None:
    velocity, take_s = matcher.take.velocities, matcher.take_s
    if len(group.behind) >= MIN_ROLL and not group.before:
        return Ornament.ROLL
    if not group.before or group.behind:
        return None
    # Grace strokes are soft; two equally loud strokes are a double stroke, which is wrong here.
    softer = all(velocity[j] < velocity[main] for j in group.before)
    leads_s = take_s[main] - take_s[group.before[0]]
    if len(group.before) == 1 and softer and leads_s <= FLAM_S:
        return Ornament.FLAM
    if len(group.before) in (2, MAX_GRACES) and softer and leads_s <= DRAG_S:
        return Ornament.DRAG
    return None


def _sign(matcher: Matcher, pitch: Ints, group: _Group, main: int) -> Ornament | None:
    extra = [*group.before, *group.behind]
    if not extra:
        return None
    away = [int(pitch[j]) - int(pitch[main]) for j in extra]
    others = {step for step in away if step}
    if not others:
        return Ornament.ROLL if len(group.behind) >= MIN_TREMOLO and not group.before else None
    # A grace note never returns to the main pitch before it; a mordent or trill does.
    is_grace = not group.behind and len(extra) <= MAX_GRACES and 0 not in away
    if is_grace and matcher.take_s[main] - matcher.take_s[extra[0]] <= GRACE_S * len(extra):
        lengths = matcher.take.lengths_s[extra]
        return Ornament.GRACE if bool((lengths <= SHORT_S).all()) else None
    if 0 not in away:
        return None
    # Neighbours on both sides make a turn, on one side a mordent or a trill, by their number.
    if min(others) < 0 < max(others):
        return Ornament.TURN
    # Main note and one neighbour by turns.
    moves = [*(int(pitch[j]) for j in group.before), int(pitch[main]), *(int(pitch[j]) for j in group.behind)]
    if any(a == b for a, b in pairwise(moves)):
        return None
    if len(extra) == 2:
        return Ornament.MORDENT if min(others) < 0 else Ornament.UPPER_MORDENT
    return Ornament.TRILL if len(extra) >= MIN_TRILL else None
