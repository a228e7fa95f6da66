"""From a path to pairs: which take note is which target note, once the time base is known."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.matching.grid import REACH_S, Floats, Ints, Onsets

WRONG_REACH_S = 0.12
"""How far from its place a wrong key still counts as played for a note."""
PITCH_WEIGHT_S = 0.002
"""Among wrong keys equally near in time, the nearer key wins: seconds for each semitone."""
MAX_PITCH_WEIGHT_S = 0.03
WEAK_COST_S = 0.05
"""Between two strokes near a place, the meant one is the stronger: seconds that a stroke of no
strength at all counts as further away; in proportion up to the take's middle strength."""
FAR_REACH_S = 0.4
"""How far from its place a note's own key still counts as played for it, where the music is slow…"""
FAR_SHARE = 0.45
"""… and no further than this share of the way to the moment beside it: it is nearest to its own."""
PUT_RIGHT_S = 0.6
"""A right key so soon after a wrong one puts it right, in time."""
TOGETHER_S = 0.08
"""Notes of a chord are no further apart."""
MIN_ROLLED, ROLLED_GAP_S = 2, 0.12
"""Notes of a chord that show it to be rolled, and how soon after the last of them the next follows."""
DOUBLE_REACH_S = 0.12
"""A second trigger comes within this of the first: a bounce of stick or key, no repeated note."""
GRAZE_REACH_S = 0.1
GRAZE_VELOCITY = 40
GRAZE_LENGTH_S = 0.09
"""A graze is light and short and lies beside a note that was meant."""

ABSENT = -1


@dataclass(frozen=True, slots=True, kw_only=True)
class Places:
    """Where target notes are expected in the take, in take seconds; NaN for those that are not
    played. `fallback_s` has second thoughts for silent notes: the place by the run before."""

    expected_s: Floats
    fallback_s: Floats


@dataclass(slots=True, kw_only=True)
class Links:
    """Which take note each target note has, by index, ABSENT for none; and the reverse."""

    take_of: Ints
    target_of: Ints
    is_wrong: NDArray[np.bool_]

    @classmethod
    def none(cls, *, targets: int, takes: int) -> "Links":
        """Return no links between so many notes."""
        return cls(
            take_of=np.full(targets, ABSENT),
            target_of=np.full(takes, ABSENT),
            is_wrong=np.zeros(targets, dtype=bool),
        )

    @property
    def target_is_right(self) -> NDArray[np.bool_]:
        """Target notes that have a take note of their own pitch."""
        right: NDArray[np.bool_] = (self.take_of != ABSENT) & ~self.is_wrong
        return right

    @property
    def take_is_right(self) -> NDArray[np.bool_]:
        """Take notes that are their target note's own pitch."""
        right = np.zeros(len(self.target_of), dtype=bool)
        right[self.take_of[self.target_is_right]] = True
        return right

    def link(self, target: int, take: int) -> None:
        """Link a written note with a played one, both by index."""
        self.take_of[target] = take
        self.target_of[take] = target


def link_notes(target: Onsets, take: Onsets, *, take_s: Floats, weakness_s: Floats, places: Places) -> Links:
    """Link notes of one pitch, the nearest first, then silent ones, then wrong keys.

    Nearest-first is the optimal assignment here: places of one pitch lie further apart than
    the reach, save in fast repetitions, where the nearest is what a listener would say.
    `weakness_s` (one a take note) is added to the distance.
    """
    links = Links.none(targets=len(target), takes=len(take))
    # Notes that the path leaves silent get a second chance at the place where the run before would have had
    # them.
    for expected_s in (places.expected_s, places.fallback_s):
        _link_same_pitch(links, target, take, take_s=take_s, weakness_s=weakness_s, expected_s=expected_s)
    _link_wrong(links, target, take, take_s=take_s, expected_s=places.expected_s)
    _link_put_right(links, target, take, take_s=take_s)
    _link_far(links, target, take, take_s=take_s, expected_s=places.expected_s)
    _link_rolled(links, target, take, take_s=take_s)
    return links


def weakness(velocity: Ints) -> Floats:
    """Return, for each take note, the seconds that its weakness adds to its distance."""
    if not len(velocity):
        return np.zeros(0)
    return WEAK_COST_S * np.clip(1.0 - velocity / np.median(velocity), 0.0, 1.0)


def _link_same_pitch(
    links: Links, target: Onsets, take: Onsets, *, take_s: Floats, weakness_s: Floats, expected_s: Floats
) -> None:
    wanted = np.nonzero((links.take_of == ABSENT) & ~np.isnan(expected_s))[0]
    there = np.nonzero(links.target_of == ABSENT)[0]
    if not len(wanted) or not len(there):
        return
    # One line for all pitches: each pitch's times lie a take's length and more from the next's.
    apart = 1.0 + 2.0 * max(float(np.abs(take_s[there]).max()), float(np.abs(expected_s[wanted]).max()))
    places = target.pitch[wanted] * apart + expected_s[wanted]
    times = take.pitch[there] * apart + take_s[there]
    in_order = np.argsort(times, kind="stable")
    i, j = _within(places, times[in_order], REACH_S)
    i, j = wanted[i], there[in_order[j]]
    _link_nearest(links, i, j, np.abs(take_s[j] - expected_s[i]) + weakness_s[j])


def _link_wrong(links: Links, target: Onsets, take: Onsets, *, take_s: Floats, expected_s: Floats) -> None:
    wanted = np.nonzero((links.take_of == ABSENT) & ~np.isnan(expected_s))[0]
    there = np.nonzero(links.target_of == ABSENT)[0]
    # A bouncing stroke is nobody's wrong note: it belongs to the note it follows.
    there = there[~is_double(take, take_s=take_s, links=links)[there]]
    if not len(wanted) or not len(there):
        return
    i, j = _within(expected_s[wanted], take_s[there], WRONG_REACH_S)
    i, j = wanted[i], there[j]
    # A neighbouring key is the likelier slip of the finger, but beyond an interval or two the distance says
    # nothing more.
    far = np.abs(target.pitch[i] - take.pitch[j]) * PITCH_WEIGHT_S
    cost = np.abs(take_s[j] - expected_s[i]) + np.minimum(far, MAX_PITCH_WEIGHT_S)
    before = links.take_of == ABSENT
    _link_nearest(links, i, j, cost)
    links.is_wrong |= before & (links.take_of != ABSENT)


def _link_put_right(links: Links, target: Onsets, take: Onsets, *, take_s: Floats) -> None:
    """Notes whose wrong key was followed at once by the right one: the right one is theirs."""
    for i in np.flatnonzero(links.is_wrong).tolist():
        wrong_s = take_s[links.take_of[i]]
        right = np.flatnonzero(
            (links.target_of == ABSENT)
            & (take.pitch == target.pitch[i])
            & (take_s > wrong_s)
            & (take_s <= wrong_s + PUT_RIGHT_S)
        )
        if len(right):
            links.target_of[links.take_of[i]] = ABSENT
            links.is_wrong[i] = False
            links.link(i, int(right[0]))
            _link_beside(links, i, target, take, take_s=take_s)


def _link_beside(links: Links, i: int, target: Onsets, take: Onsets, *, take_s: Floats) -> None:
    """The notes of a chord that waited for one of them, and were played with it."""
    mates = np.flatnonzero((links.take_of == ABSENT) & (np.abs(target.time - target.time[i]) < 1e-6))
    for mate in mates.tolist():
        near = np.abs(take_s - take_s[links.take_of[i]]) <= TOGETHER_S
        own = np.flatnonzero((links.target_of == ABSENT) & (take.pitch == target.pitch[mate]) & near)
        if len(own):
            links.link(mate, int(own[0]))


def _link_far(links: Links, target: Onsets, take: Onsets, *, take_s: Floats, expected_s: Floats) -> None:
    """Silent notes and unlinked strokes of their own key, further away than a time base is found by:
    in slow music a note a fifth of a second late is late, not missed."""
    wanted = np.nonzero((links.take_of == ABSENT) & ~np.isnan(expected_s))[0]
    there = np.nonzero(links.target_of == ABSENT)[0]
    there = there[~is_double(take, take_s=take_s, links=links)[there]]
    if not len(wanted) or not len(there):
        return
    i, j = _within(expected_s[wanted], take_s[there], FAR_REACH_S)
    i, j = wanted[i], there[j]
    # Far links are limited by the room to the next moment, so that a late note is never taken for its
    # neighbour.
    moments = np.unique(expected_s[~np.isnan(expected_s)])
    at = np.searchsorted(moments, expected_s[i])
    edged = np.concatenate(([-np.inf], moments, [np.inf]))
    off = take_s[j] - expected_s[i]
    room = np.where(off < 0, expected_s[i] - edged[at], edged[at + 2] - expected_s[i])
    near = (target.pitch[i] == take.pitch[j]) & (np.abs(off) <= FAR_SHARE * room)
    _link_nearest(links, i[near], j[near], np.abs(off[near]))


def _link_rolled(links: Links, target: Onsets, take: Onsets, *, take_s: Floats) -> None:
    """Silent notes of a chord whose other notes were played one after the other, and go on to one of its own: the last
    note of a slowly rolled chord is further from its place than from its neighbours."""
    for i in np.flatnonzero(links.take_of == ABSENT).tolist():
        first = np.searchsorted(target.time, target.time[i] - 1e-6)
        after = np.searchsorted(target.time, target.time[i] + 1e-6, side="right")
        mates = links.take_of[first:after]
        mates = mates[mates != ABSENT]
        if len(mates) < MIN_ROLLED:
            continue
        last = float(take_s[mates].max())
        near = np.flatnonzero(
            (links.target_of == ABSENT)
            & (take.pitch == target.pitch[i])
            & (take_s > last)
            & (take_s <= last + ROLLED_GAP_S)
        )
        if len(near):
            links.link(i, int(near[0]))


def _within(places: Floats, times: Floats, reach: float) -> tuple[Ints, Ints]:
    """All index pairs (place, time) no further apart than `reach`; `times` are sorted."""
    first = np.searchsorted(times, places - reach, side="left")
    after = np.searchsorted(times, places + reach, side="right")
    count = after - first
    i = np.repeat(np.arange(len(places)), count)
    j = np.arange(len(i)) - np.repeat(np.cumsum(count) - count, count) + np.repeat(first, count)
    return i, j


def _link_nearest(links: Links, i: Ints, j: Ints, cost: Floats) -> None:
    """Link candidates in order of cost; ties by target, then take. Their notes have no link yet."""
    # Candidates without a rival on either side need no order; they are nearly all, and are linked in one
    # step.
    rivals = (np.bincount(i, minlength=1)[i] > 1) | (np.bincount(j, minlength=1)[j] > 1)
    alone_i, alone_j = i[~rivals], j[~rivals]
    links.take_of[alone_i] = alone_j
    links.target_of[alone_j] = alone_i
    i, j, cost = i[rivals], j[rivals], cost[rivals]
    order = np.lexsort((j, i, cost))
    for target, take in zip(i[order].tolist(), j[order].tolist(), strict=True):
        if links.take_of[target] == ABSENT and links.target_of[take] == ABSENT:
            links.link(target, take)


def previous_of_pitch(take: Onsets, *, usable: NDArray[np.bool_]) -> Ints:
    """Return, for each take note, the last usable note of its pitch before it, or ABSENT."""
    # Sorted by pitch, then time, the note before one of the same pitch is simply the one to its left.
    order = np.lexsort((np.arange(len(take)), take.pitch))
    place = np.arange(len(take))
    starts = np.concatenate(([True], np.diff(take.pitch[order]) != 0)) if len(take) else np.zeros(0, bool)
    group_start = np.maximum.accumulate(np.where(starts, place, 0))
    last_usable = np.maximum.accumulate(np.where(usable[order], place, ABSENT))
    # One place on, so that a note does not count as before itself.
    before = np.concatenate(([ABSENT], last_usable[:-1]))[: len(take)]
    previous = np.full(len(take), ABSENT)
    inside = before >= group_start
    previous[order[inside]] = order[before[inside]]
    return previous


def is_double(take: Onsets, *, take_s: Floats, links: Links) -> NDArray[np.bool_]:
    """Return which unlinked take notes follow a linked note of the same pitch at once."""
    linked = links.target_of != ABSENT
    before = previous_of_pitch(take, usable=linked)
    near = (before != ABSENT) & (take_s - take_s[before] <= DOUBLE_REACH_S)
    flags: NDArray[np.bool_] = ~linked & near
    return flags


def is_graze(
    take: Onsets, *, take_s: Floats, length_s: Floats, velocity: Ints, links: Links
) -> NDArray[np.bool_]:
    """Return which unlinked take notes are light and short, right beside a linked note."""
    linked_s = take_s[links.target_of != ABSENT]
    if not len(linked_s):
        return np.zeros(len(take), dtype=bool)
    after = np.searchsorted(linked_s, take_s)
    gap = np.minimum(
        np.abs(take_s - linked_s[np.minimum(after, len(linked_s) - 1)]),
        np.abs(take_s - linked_s[np.maximum(after - 1, 0)]),
    )
    flags: NDArray[np.bool_] = (
        (links.target_of == ABSENT)
        & (gap <= GRAZE_REACH_S)
        & (velocity <= GRAZE_VELOCITY)
        & (length_s <= GRAZE_LENGTH_S)
    )
    return flags
