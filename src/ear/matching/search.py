"""The search for transposition, pace and path that explain a take best."""

from dataclasses import replace

import numpy as np

from ear.matching.clock import CLICK, PlayerClock
from ear.matching.fit import running_median
from ear.matching.following import clock_of, follow
from ear.matching.form import MIN_BARS, at_repeats
from ear.matching.grid import Onsets
from ear.matching.matcher import CHANGE_COST, PITCHES, TRANSPOSITION_COST, Hypothesis, Matcher, better
from ear.matching.pace_fit import clock_at_pace
from ear.matching.pairing import ABSENT
from ear.matching.path import ShiftRange
from ear.matching.renditions import exchanged_grid, explained, path_along_take
from ear.matching.runs import Path

REFINEMENTS, PACES = 3, 3
MIN_PACED = 4
AROUND = 6
"""Links to either side by which it is told where a player is."""
SAME_CLOCK_S = 0.02
TRANSPOSITIONS = tuple(sorted(range(-36, 37), key=lambda t: (abs(t), t)))
TRANSPOSITIONS_TRIED = 3
LIKELY_SHARE = 0.9
"""A take that scores this share of its notes is in no other key and at no other tempo."""
POOR_SHARE = 0.6
"""One that scores less than this may be in any key."""
KEYS_WITHIN, KEYS_KEPT = 12, 2
MIN_PLAYED_ANEW, PLAYED_ANEW_SHARE = 3, 0.06
"""Notes of the take alone or wrong from which the search along the take is worth its time."""
MAX_JUMPS_SHARE = 0.02
"""Jumps for each moment, above which a path may be a steady one at another tempo."""
PLAYED_ANEW_GAIN = 1.0
"""Notes that its story must explain more, to be told."""


def search(matcher: Matcher) -> Hypothesis:
    """Return the cheapest explanation of a take over keys, tempos and paths."""
    # Most takes are in the written key and keep to the click, so the cheapest search comes first and
    # usually decides.
    best = matcher.hypothesis(transposition=0, clock=CLICK, reach=ShiftRange.STRAIGHT)
    if not matcher.explains(best, POOR_SHARE):
        # Hardly with the click: before it is searched far and wide, is it another tempo?
        best = _own_tempo(matcher, best, transposition=0)
    # A take that was followed at a tempo of its own is searched around the click only if it is still poorly
    # explained.
    if not matcher.explains(best, LIKELY_SHARE) or best.clock.is_click:
        best = better(best, matcher.along(transposition=0))
    # Another key is worth a search only if its pitches could link more notes: pitches alone decide that, in
    # no time.
    others: list[int] = []
    if matcher.has_key and (best.left_over or not matcher.explains(best, LIKELY_SHARE)):
        others = _transpositions(matcher)
        for transposition in others:
            best = better(best, matcher.along(transposition=transposition))
    # A path full of jumps is often a steady take at another tempo, met again and again by jumps.
    if not _is_enough(matcher, best):
        best = _own_tempo(matcher, best, transposition=best.transposition)
    if not matcher.explains(best, LIKELY_SHARE):
        # In another key and at another tempo at once.
        for transposition in (t for t in others if t != best.transposition):
            best = better(best, _own_tempo(matcher, best, transposition=transposition))
    # Counting pitches misleads in short or very wrong takes: the last resort tries every key within an
    # octave.
    if matcher.has_key and not matcher.explains(best, POOR_SHARE):
        best = _any_key(matcher, best)
    return relinked(matcher, _at_repeats(matcher, _played_anew(matcher, _refined(matcher, best))))


def _played_anew(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """Where notes of the take are not right: was more of it played twice than was seen?"""
    astray = int((~best.links.take_is_right).sum())
    if astray < max(MIN_PLAYED_ANEW, PLAYED_ANEW_SHARE * len(matcher.played)):
        return best
    # The path uses the take only forward, so music played twice leaves notes over. With target and take
    # exchanged, the same search may go back in the target.
    take = matcher.transposed(best.transposition)
    grid = matcher.grid(take, best.clock)
    own = Onsets(time=best.clock.own_at(take.time), pitch=take.pitch)
    exchanged = exchanged_grid(matcher.target, own, quarters_per_second=matcher.quarters_per_second)
    path = path_along_take(grid, exchanged)
    if path is None:
        return best
    gained = explained(grid, exchanged, path) - explained(grid, exchanged, best.path)
    if gained < PLAYED_ANEW_GAIN:
        return best
    # Scores of the exchanged search count both sides by halves; only their difference is comparable with
    # the first score.
    path = replace(path, score=best.path.score + gained)
    return matcher.along_path(path, take, clock=best.clock, transposition=best.transposition)


def _is_enough(matcher: Matcher, hypothesis: Hypothesis) -> bool:
    """Is another tempo not worth a search? It is if each chord is met by a jump of its own, or the path must bend."""
    path = hypothesis.path
    if matcher.is_steady(hypothesis):
        return True
    jumps = int(path.run.max(initial=0))
    if matcher.bends(path) or jumps > MAX_JUMPS_SHARE * len(path.run):
        return False
    return hypothesis.left_over < matcher.worth_a_search and matcher.explains(hypothesis, POOR_SHARE)


def _any_key(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """Every key within an octave: pitches alone do not tell a key in which few notes were played."""
    tried = [
        matcher.hypothesis(transposition=t, clock=CLICK, reach=ShiftRange.STRAIGHT)
        for t in range(-KEYS_WITHIN, KEYS_WITHIN + 1)
        if t
    ]
    for likely in sorted(tried, key=lambda h: -h.worth)[:KEYS_KEPT]:
        best = better(best, matcher.along(transposition=likely.transposition))
    return best


def _own_tempo(matcher: Matcher, best: Hypothesis, *, transposition: int) -> Hypothesis:
    """The take followed at whatever tempo it was played, if that explains more; the pace that it shows."""
    if transposition in matcher.followed:
        return better(best, matcher.followed[transposition])
    matcher.followed[transposition] = candidate = _followed(matcher, transposition)
    return better(best, candidate)


def _followed(matcher: Matcher, transposition: int) -> Hypothesis:
    take = matcher.transposed(transposition)
    following = follow(
        matcher.target, take, take_s=matcher.take_s, seconds_per_quarter=matcher.seconds_per_quarter
    )
    clock = clock_of(following, quarters_per_second=matcher.quarters_per_second)
    if clock is None:
        return matcher.along(transposition=transposition)
    followed = matcher.along(transposition=transposition, clock=clock)
    linked = matcher.linked(followed)
    if not linked.runs:
        return followed
    # Without a price for each change of tempo, a bend would explain every wrong note.
    # It costs as many changes as are told of it.
    change_cost = CHANGE_COST * (len(matcher.fitted(followed, linked).pieces) - 1)
    best = replace(followed, worth=followed.worth - change_cost)
    for _ in range(PACES):
        clock = _paced(matcher, followed)
        if clock is followed.clock:
            break
        followed = matcher.along(transposition=transposition, clock=clock)
        best = better(best, followed)
    return best


def _transpositions(matcher: Matcher) -> list[int]:
    """Transpositions under which pitches alone could link more, the likeliest first."""
    wanted = np.bincount(matcher.target.pitch, minlength=PITCHES)
    there = np.bincount(matcher.played.pitch, minlength=PITCHES)
    most = max(TRANSPOSITIONS)
    # Padding lets every transposition be read as a slice of one array.
    padded = np.pad(there, most)
    common = {t: int(np.minimum(wanted, padded[most + t : most + t + PITCHES]).sum()) for t in TRANSPOSITIONS}
    likely = [t for t in TRANSPOSITIONS if t and common[t] > common[0] + TRANSPOSITION_COST]
    return sorted(likely, key=lambda t: -common[t])[:TRANSPOSITIONS_TRIED]


def _refined(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """Follow the pace that the links show, as long as the path explains no less by it."""
    for _ in range(REFINEMENTS):
        clock = _paced(matcher, best)
        if clock is best.clock:
            break
        candidate = matcher.along(transposition=best.transposition, clock=clock)
        if candidate.path.score < best.path.score:
            break
        best = candidate
    return best


def _at_repeats(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """With jumps ahead where a passage and its repeat part."""
    if matcher.part.meters.first.bar_quarters * MIN_BARS > matcher.moments[-1] or not _is_bent_far(
        matcher, best.path
    ):
        return best
    is_played = np.bincount(matcher.note_moment, best.links.take_of != ABSENT, len(matcher.moments)) > 0
    path = at_repeats(best.path, matcher.form, is_played)
    if path is best.path:
        return best
    take = matcher.transposed(best.transposition)
    candidate = matcher.along_path(path, take, clock=best.clock, transposition=best.transposition)
    # Moving a jump to where a repeat parts may cost one note at the seam, but no more.
    is_as_good = candidate.links.target_is_right.sum() >= best.links.target_is_right.sum() - 1
    return replace(candidate, worth=best.worth) if is_as_good else best


def _is_bent_far(matcher: Matcher, path: Path) -> bool:
    """Does a path leave two bars out?"""
    shift = path.shift[path.run >= 0]
    return (
        bool(len(shift))
        and float(np.diff(shift, prepend=0.0).min()) < -matcher.part.meters.first.bar_quarters
    )


def relinked(matcher: Matcher, best: Hypothesis) -> Hypothesis:
    """Return the notes linked once more at a pace of the player's own, in as few stretches as it takes, with
    room to be a little before or behind it for some beats.
    """
    if best.clock.is_click:
        return best
    take = matcher.transposed(best.transposition)
    places = matcher.places(best.path, best.clock)
    linked = matcher.linked(best)
    if not linked.runs:
        return best
    # What is left after the pace is a slow wander about it. A running median follows it without following
    # single notes.
    late = np.full(len(matcher.target), np.nan)
    late[linked.target] = matcher.take_s[best.links.take_of[linked.target]] - places.expected_s[linked.target]
    for run in range(linked.runs):
        here = linked.target[linked.run == run]
        near = running_median(late[here], AROUND)
        inside = (matcher.target.time >= matcher.target.time[here[0]]) & (
            matcher.target.time <= matcher.target.time[here[-1]]
        )
        places.expected_s[inside] += np.interp(matcher.target.time[inside], matcher.target.time[here], near)
    links = matcher.linked_at(places, best.transposition)
    if links.target_is_right.sum() < best.links.target_is_right.sum():
        return best
    return replace(best, links=links, left_over=matcher.left_over(take, links))


def _paced(matcher: Matcher, hypothesis: Hypothesis) -> PlayerClock:
    """The player's clock by the pace that the linked notes show; the hypothesis's own where they show no other."""
    linked = matcher.linked(hypothesis)
    if len(linked.target) < MIN_PACED:
        return hypothesis.clock
    written_s = matcher.target.time[linked.target] * matcher.seconds_per_quarter
    clock = clock_at_pace(
        matcher.fitted(hypothesis, linked),
        written_s,
        linked.run,
        quarters_per_second=matcher.quarters_per_second,
    )
    take = matcher.played.time[hypothesis.links.take_of[linked.target]]
    # Two clocks that differ by a constant link the same notes: only a spread of the difference is news.
    ahead = clock.own_at(take) - hypothesis.clock.own_at(take)
    # What is later all through is the same clock.
    same = float(np.ptp(ahead)) < SAME_CLOCK_S * matcher.quarters_per_second and not clock.is_click
    return hypothesis.clock if same or (clock.is_click and hypothesis.clock.is_click) else clock
