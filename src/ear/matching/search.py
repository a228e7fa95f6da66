"""The search for transposition, pace and path that explain a take best."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ear.matching.clock import CLICK, PlayerClock
from ear.matching.fit import running_median
from ear.matching.following import clock_of, follow
from ear.matching.form import BARS_LEAST, Form, at_repeats
from ear.matching.grid import JUMP_COST, Grid, Ints, Onsets, make_grid, moments_of
from ear.matching.pace_fit import Fitted, clock_at_pace, fit_pace
from ear.matching.pairing import ABSENT, Links, Places, link_notes, weakness
from ear.matching.path import NEAR_S, Reach, Straight, best_path, straight_path
from ear.matching.renditions import exchanged_grid, explained, path_along_take
from ear.matching.runs import Path
from ear.notes import FOOT_HAT, HANDS, Hand, KitMap, Part, Take
from ear.units import TICKS_PER_QUARTER

TEMPO_COST = 2.0
"""Notes that another tempo must gain over the click's,"""
CHANGE_COST = 1.0
"""and each change of it."""
REFINEMENTS, PACES = 3, 3
PACED_LEAST = 4
AROUND = 6
"""Links to either side by which it is told where a player is."""
SAME_CLOCK_S = 0.02
STANDS_IN_SHARE = 0.5
"""Of the foot's strokes that fall where a stroke of the stick is missing, from which they stand in for it."""
BENT_S, BENT_COST = 0.15, 2.0
"""Shifts further apart than this may be a tempo that changes, and a path that follows it unsaid costs notes, too."""
TRANSPOSITION_COST = 3.0
FAR_COST = 1.5
"""Notes that a path must gain that leads far from the click, over one that keeps near."""
TRANSPOSITIONS = tuple(sorted(range(-36, 37), key=lambda t: (abs(t), t)))
PITCHES = 128
TRANSPOSITIONS_TRIED = 3
LIKELY_SHARE = 0.9
"""A take that scores this share of its notes is in no other key and at no other tempo."""
POOR_SHARE = 0.6
"""One that scores less than this may be in any key."""
KEYS_WITHIN, KEYS_KEPT = 12, 2
LEFT_OVER_SHARE = 0.04
"""Left-over notes, on both sides, that are worth another search."""
PLAYED_ANEW_LEAST, PLAYED_ANEW_SHARE = 3, 0.06
"""Notes of the take alone or wrong from which the search along the take is worth its time."""
PLAYED_ANEW_GAIN = 1.0
"""Notes that its story must explain more, to be told."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Hypothesis:
    """A path under a transposition, its links, and what could still be gained."""

    path: Path
    clock: PlayerClock
    transposition: int
    links: Links
    left_over: int
    worth: float
    """Score less the costs of a transposition, another tempo, a path far from the click."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkedRuns:
    """Linked target notes by index, each with the number of its run."""

    target: Ints
    run: Ints
    runs: int


def better(best: Hypothesis, other: Hypothesis) -> Hypothesis:
    """The worthier; the first of equals."""
    return other if other.worth > best.worth + 1e-6 else best


class Matcher:
    """A target and a take as arrays, with the steps of the search."""

    def __init__(
        self,
        part: Part,
        take: Take,
        *,
        kit: KitMap,
        pads: Mapping[int, int] | None = None,
        in_key: bool = False,
        octaves: Mapping[Hand, int] | None = None,
    ) -> None:
        """`pads` says for lanes of the take which lane of the part they are meant as; `in_key` that the take is in the
        part's key without doubt; `octaves` by how many semitones hands are above their part."""

        def fold(pitches: Ints) -> Ints:
            return kit.folds[pitches] if part.instrument.has_lanes else pitches

        self.part, self.take, self.kit = part, take, kit
        self.octaves = dict(octaves or {})
        self.hands = {note.hand for note in part.notes if note.hand is not None}
        self.has_key = part.instrument.has_key and not in_key and not octaves
        """Other keys are looked for. A kit has none: strokes on other pads are wrong drums, however regular."""
        # All times are quarters of the first tempo, so that a written change of tempo is none here.
        self.quarters_per_second = part.tempos.first_bpm / 60.0
        self.seconds_per_quarter = 60.0 / part.tempos.first_bpm
        written = part.tempos.even(part.onset_ticks / TICKS_PER_QUARTER)
        self.is_off = np.zeros(len(part.notes), dtype=bool)
        wanted = fold(part.pitches)
        for hand, semitones in self.octaves.items():
            own = part.hand_numbers == HANDS.index(hand)
            self.is_off |= own
            wanted = np.where(own, wanted + semitones, wanted)
        self.target = Onsets(time=written, pitch=wanted)
        self.take_s = take.onsets_s
        lanes = fold(take.pitches)
        self.is_other_pad = np.isin(lanes, list(pads or {}))
        for pad, lane in (pads or {}).items():
            lanes = np.where(fold(take.pitches) == pad, lane, lanes)
        self.played = Onsets(time=self.take_s * self.quarters_per_second, pitch=lanes)
        self.struck, self.is_foot = self.played, np.zeros(len(lanes), dtype=bool)
        """As `played`, but for the hat of the foot: beside that of the stick it is a pad of its own."""
        if part.instrument.has_lanes and not pads:
            foot = FOOT_HAT.pitches[0]
            self.is_foot = (take.pitches == foot) & (not (part.pitches == foot).any())
            self.struck = replace(self.played, pitch=np.where(self.is_foot, foot, lanes))
        self.weakness_s = weakness(take.velocities)
        self.moments, self.note_moment = moments_of(self.target.time)
        self.bar_starts = part.tempos.even(part.bar_starts / TICKS_PER_QUARTER)
        self.known: dict[tuple[int, PlayerClock, Reach], Hypothesis] = {}
        self.straight: dict[tuple[int, PlayerClock], tuple[Grid, Straight]] = {}
        self.followed: dict[int, Hypothesis] = {}
        self.worth_a_search = max(JUMP_COST, LEFT_OVER_SHARE * min(len(self.target), len(self.played)))

    @property
    def is_on_one_pad(self) -> bool:
        """All strokes on one pad, of a part for several."""
        return not self.has_key and len(np.unique(self.played.pitch)) == 1 < len(np.unique(self.target.pitch))

    def tell_other_pads(self, found: Hypothesis) -> None:
        """Strokes on pads that stand for another are wrong ones, for all that they are in their places."""
        linked = found.links.take_of != ABSENT
        found.links.is_wrong[linked] |= self.is_other_pad[found.links.take_of[linked]]

    def with_hands(self, octaves: Mapping[Hand, int]) -> "Matcher":
        """The same take, its hands each in an octave."""
        return Matcher(self.part, self.take, kit=self.kit, in_key=True, octaves=octaves)

    def tell_octaves(self, found: Hypothesis) -> None:
        """Notes of a hand in another octave are wrong ones, for all that they are in their places."""
        found.links.is_wrong[self.is_off & (found.links.take_of != ABSENT)] = True

    def transposed(self, semitones: int) -> Onsets:
        """The take's onsets, moved down by so many semitones."""
        return Onsets(time=self.played.time, pitch=self.played.pitch - semitones)

    def struck_in(self, semitones: int) -> Onsets:
        """As `struck`, moved down by so many semitones."""
        return replace(self.struck, pitch=self.struck.pitch - semitones)

    def left_over(self, take: Onsets, links: Links) -> int:
        """Notes without a link of their own pitch that could still have one, by pitch alone."""
        wanted = np.bincount(self.target.pitch[~links.target_is_right], minlength=PITCHES)
        pitch = take.pitch[~links.take_is_right]
        there = np.bincount(pitch[(pitch >= 0) & (pitch < PITCHES)], minlength=PITCHES)
        return int(np.minimum(wanted, there).sum())

    def grid(self, take: Onsets, clock: PlayerClock) -> Grid:
        """The lattice of moments for a take on a clock."""
        return make_grid(
            self.target,
            Onsets(time=clock.own_at(take.time), pitch=take.pitch),
            quarters_per_second=self.quarters_per_second,
            bar_starts=self.bar_starts,
        )

    def hypothesis(self, *, transposition: int, clock: PlayerClock, reach: Reach) -> Hypothesis:
        """Searched once, however often it is asked for."""
        key = (transposition, clock, reach)
        if key not in self.known:
            take = self.transposed(transposition)
            if key[:2] not in self.straight:
                grid = self.grid(take, clock)
                self.straight[key[:2]] = grid, straight_path(grid)
            path = best_path(*self.straight[key[:2]], reach=reach)
            self.known[key] = self.along_path(path, take, clock=clock, transposition=transposition)
        return self.known[key]

    def along_path(self, path: Path, take: Onsets, *, clock: PlayerClock, transposition: int) -> Hypothesis:
        """The notes linked along one path, with what that costs."""
        links = self.linked_at(self.places(path, clock), transposition)
        cost = TRANSPOSITION_COST if transposition else 0.0
        cost += 0.0 if clock.is_click else TEMPO_COST + CHANGE_COST * (clock.changes - 1)
        cost += FAR_COST if self.is_far(path) else 0.0
        cost += BENT_COST if self.bends(path) else 0.0
        return Hypothesis(
            path=path,
            clock=clock,
            transposition=transposition,
            links=links,
            left_over=self.left_over(take, links),
            worth=path.score - cost,
        )

    def linked_at(self, places: Places, transposition: int) -> Links:
        """Notes linked at their places. A stroke of the foot stands for one of the stick where there is none."""
        links = link_notes(
            self.target,
            self.struck_in(transposition),
            take_s=self.take_s,
            weakness_s=self.weakness_s,
            places=places,
        )
        by_foot = np.flatnonzero((links.take_of != ABSENT) & self.is_foot[links.take_of])
        if len(by_foot):
            hat = self.target.pitch == self.kit.fold(FOOT_HAT.pitches[0])
            if hat[by_foot].sum() < STANDS_IN_SHARE * self.is_foot.sum():
                # The foot beats time beside the stick: it is no stroke too late, and no other drum.
                links.target_of[links.take_of[by_foot]] = ABSENT
                links.take_of[by_foot] = ABSENT
                links.is_wrong[by_foot] = False
            else:
                links.is_wrong[by_foot[hat[by_foot]]] = False
        return links

    def is_bent(self, path: Path) -> bool:
        """Does a path jump, or lead away from where it begins?"""
        shift = path.shift[path.run >= 0]
        return bool(len(shift)) and float(np.ptp(shift)) > BENT_S * self.quarters_per_second

    def bends(self, path: Path) -> bool:
        """Does a path lead away from where a run of it begins?"""
        return any(
            float(np.ptp(path.shift[path.run == run])) > BENT_S * self.quarters_per_second
            for run in range(int(path.run.max(initial=-1)) + 1)
            if (path.run == run).any()
        )

    def is_far(self, path: Path) -> bool:
        """Does a path lead further from the click than the first search looks?"""
        far = np.abs(np.nan_to_num(path.shift)) > NEAR_S * self.quarters_per_second
        return bool(far.any())

    def places(self, path: Path, clock: PlayerClock) -> Places:
        """Expected take seconds by the path; for silent notes, by the run before them."""
        before = path.shift.copy()
        for m in range(1, len(before)):
            if np.isnan(before[m]):
                before[m] = before[m - 1]
        expected = clock.take_at(self.moments + path.shift)
        fallback = np.where(np.isnan(path.shift), clock.take_at(self.moments + before), np.nan)
        return Places(
            expected_s=expected[self.note_moment] * self.seconds_per_quarter,
            fallback_s=fallback[self.note_moment] * self.seconds_per_quarter,
        )

    def search(self) -> Hypothesis:
        """The cheapest explanation over keys, tempos and paths."""
        best = self.hypothesis(transposition=0, clock=CLICK, reach=Reach.STRAIGHT)
        if not self.explains(best, POOR_SHARE):
            # Hardly with the click: before it is searched far and wide, is it another tempo?
            best = self.own_tempo(best, transposition=0)
        if not self.explains(best, LIKELY_SHARE) or best.clock.is_click:
            best = better(best, self.along(transposition=0))
        others: list[int] = []
        if self.has_key and (best.left_over or not self.explains(best, LIKELY_SHARE)):
            others = self.transpositions()
            for transposition in others:
                best = better(best, self.along(transposition=transposition))
        if not self.is_enough(best):
            best = self.own_tempo(best, transposition=best.transposition)
        if not self.explains(best, LIKELY_SHARE):
            # In another key and at another tempo at once.
            for transposition in (t for t in others if t != best.transposition):
                best = better(best, self.own_tempo(best, transposition=transposition))
        if self.has_key and not self.explains(best, POOR_SHARE):
            best = self.any_key(best)
        return self.relinked(self.at_repeats(self.played_anew(self.refined(best))))

    def played_anew(self, best: Hypothesis) -> Hypothesis:
        """Where notes of the take are not right: was more of it played twice than was seen?"""
        astray = int((~best.links.take_is_right).sum())
        if astray < max(PLAYED_ANEW_LEAST, PLAYED_ANEW_SHARE * len(self.played)):
            return best
        take = self.transposed(best.transposition)
        grid = self.grid(take, best.clock)
        own = Onsets(time=best.clock.own_at(take.time), pitch=take.pitch)
        exchanged = exchanged_grid(self.target, own, quarters_per_second=self.quarters_per_second)
        path = path_along_take(grid, exchanged)
        if path is None:
            return best
        gained = explained(grid, exchanged, path) - explained(grid, exchanged, best.path)
        if gained < PLAYED_ANEW_GAIN:
            return best
        path = replace(path, score=best.path.score + gained)
        return self.along_path(path, take, clock=best.clock, transposition=best.transposition)

    def explains(self, found: Hypothesis, share: float) -> bool:
        """Is a hypothesis worth this share of the notes that could be linked?"""
        return found.worth >= share * min(len(self.target), len(self.played))

    def is_enough(self, found: Hypothesis) -> bool:
        """Is another tempo not worth a search? Not if each chord is met by a jump of its own, or the path must bend."""
        if self.is_bent(found.path) or found.left_over >= self.worth_a_search:
            return False
        return self.explains(found, POOR_SHARE)

    def any_key(self, best: Hypothesis) -> Hypothesis:
        """Every key within an octave: pitches alone do not tell a key in which few notes were played."""
        tried = [
            self.hypothesis(transposition=t, clock=CLICK, reach=Reach.STRAIGHT)
            for t in range(-KEYS_WITHIN, KEYS_WITHIN + 1)
            if t
        ]
        for likely in sorted(tried, key=lambda h: -h.worth)[:KEYS_KEPT]:
            best = better(best, self.along(transposition=likely.transposition))
        return best

    def along(self, *, transposition: int, clock: PlayerClock = CLICK) -> Hypothesis:
        """Search near the click; further off only if enough notes are left alone to pay for it."""
        best = self.hypothesis(transposition=transposition, clock=clock, reach=Reach.NEAR)
        if best.left_over >= self.worth_a_search:
            best = better(best, self.hypothesis(transposition=transposition, clock=clock, reach=Reach.FAR))
        return best

    def own_tempo(self, best: Hypothesis, *, transposition: int) -> Hypothesis:
        """The take followed at whatever tempo it was played, if that explains more; the pace that it shows."""
        if transposition in self.followed:
            return better(best, self.followed[transposition])
        self.followed[transposition] = found = self._followed(transposition)
        return better(best, found)

    def _followed(self, transposition: int) -> Hypothesis:
        take = self.transposed(transposition)
        following = follow(
            self.target, take, take_s=self.take_s, seconds_per_quarter=self.seconds_per_quarter
        )
        clock = clock_of(following, quarters_per_second=self.quarters_per_second)
        if clock is None:
            return self.along(transposition=transposition)
        followed = self.along(transposition=transposition, clock=clock)
        linked = self.linked(followed)
        if not linked.runs:
            return followed
        # It costs as many changes as are told of it.
        told = CHANGE_COST * (len(self.fitted(followed, linked).pieces) - 1)
        best = replace(followed, worth=followed.worth - told)
        for _ in range(PACES):
            clock = self.paced(followed)
            if clock is followed.clock:
                break
            followed = self.along(transposition=transposition, clock=clock)
            best = better(best, followed)
        return best

    def transpositions(self) -> list[int]:
        """Transpositions under which pitches alone could link more, the likeliest first."""
        wanted = np.bincount(self.target.pitch, minlength=PITCHES)
        there = np.bincount(self.played.pitch, minlength=PITCHES)
        most = max(TRANSPOSITIONS)
        padded = np.pad(there, most)
        common = {
            t: int(np.minimum(wanted, padded[most + t : most + t + PITCHES]).sum()) for t in TRANSPOSITIONS
        }
        likely = [t for t in TRANSPOSITIONS if t and common[t] > common[0] + TRANSPOSITION_COST]
        return sorted(likely, key=lambda t: -common[t])[:TRANSPOSITIONS_TRIED]

    def refined(self, best: Hypothesis) -> Hypothesis:
        """Follow the pace that the links show, as long as the path explains no less by it."""
        for _ in range(REFINEMENTS):
            clock = self.paced(best)
            if clock is best.clock:
                break
            found = self.along(transposition=best.transposition, clock=clock)
            if found.path.score < best.path.score:
                break
            best = found
        return best

    @cached_property
    def form(self) -> Form:
        """What of the music is there twice."""
        bar = self.part.meters.first.bar_quarters
        return Form.of(self.moments, self.note_moment, self.target.pitch, bar)

    def at_repeats(self, best: Hypothesis) -> Hypothesis:
        """With jumps ahead where a passage and its repeat part."""
        if self.part.meters.first.bar_quarters * BARS_LEAST > self.moments[-1] or not self.is_bent_far(
            best.path
        ):
            return best
        is_played = np.bincount(self.note_moment, best.links.take_of != ABSENT, len(self.moments)) > 0
        path = at_repeats(best.path, self.form, is_played)
        if path is best.path:
            return best
        take = self.transposed(best.transposition)
        found = self.along_path(path, take, clock=best.clock, transposition=best.transposition)
        is_as_good = found.links.target_is_right.sum() >= best.links.target_is_right.sum() - 1
        return replace(found, worth=best.worth) if is_as_good else best

    def is_bent_far(self, path: Path) -> bool:
        """Does a path leave two bars out?"""
        shift = path.shift[path.run >= 0]
        return (
            bool(len(shift))
            and float(np.diff(shift, prepend=0.0).min()) < -self.part.meters.first.bar_quarters
        )

    def relinked(self, best: Hypothesis) -> Hypothesis:
        """Notes linked once more at a pace of the player's own, where he was heard to be: his pace is told in as few
        stretches as it takes, and he is a little before or behind it for some beats."""
        if best.clock.is_click:
            return best
        take = self.transposed(best.transposition)
        places = self.places(best.path, best.clock)
        linked = self.linked(best)
        if not linked.runs:
            return best
        late = np.full(len(self.target), np.nan)
        late[linked.target] = (
            self.take_s[best.links.take_of[linked.target]] - places.expected_s[linked.target]
        )
        for run in range(linked.runs):
            here = linked.target[linked.run == run]
            near = running_median(late[here], AROUND)
            inside = (self.target.time >= self.target.time[here[0]]) & (
                self.target.time <= self.target.time[here[-1]]
            )
            places.expected_s[inside] += np.interp(self.target.time[inside], self.target.time[here], near)
        links = link_notes(self.target, take, take_s=self.take_s, weakness_s=self.weakness_s, places=places)
        if links.target_is_right.sum() < best.links.target_is_right.sum():
            return best
        return replace(best, links=links, left_over=self.left_over(take, links))

    def paced(self, found: Hypothesis) -> PlayerClock:
        """The player's clock by the pace that the linked notes show; the hypothesis's own where they show no other."""
        linked = self.linked(found)
        if len(linked.target) < PACED_LEAST:
            return found.clock
        written_s = self.target.time[linked.target] * self.seconds_per_quarter
        clock = clock_at_pace(
            self.fitted(found, linked), written_s, linked.run, quarters_per_second=self.quarters_per_second
        )
        take = self.played.time[found.links.take_of[linked.target]]
        ahead = clock.own_at(take) - found.clock.own_at(take)
        # What is later all through is the same clock.
        same = float(np.ptp(ahead)) < SAME_CLOCK_S * self.quarters_per_second and not clock.is_click
        return found.clock if same or (clock.is_click and found.clock.is_click) else clock

    def linked(self, found: Hypothesis) -> LinkedRuns:
        """Linked target notes within runs, with their runs numbered without gaps."""
        run = found.path.run[self.note_moment]
        i = np.nonzero((found.links.take_of != ABSENT) & (run >= 0))[0]
        _, number = np.unique(run[i], return_inverse=True)
        return LinkedRuns(target=i, run=number.astype(np.int64), runs=int(number.max(initial=-1)) + 1)

    def fitted(self, found: Hypothesis, linked: LinkedRuns) -> Fitted:
        """The pace that linked notes show, and the level of each run. Needs a linked note."""
        written_s = self.target.time[linked.target] * self.seconds_per_quarter
        played_s = self.take_s[found.links.take_of[linked.target]]
        return fit_pace(written_s, played_s, linked.run, runs=linked.runs)
