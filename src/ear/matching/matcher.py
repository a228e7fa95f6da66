"""A target and a take, and hypotheses about them: a key, a clock of the player's, a path, and what they explain."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ear.matching.clock import CLICK, PlayerClock
from ear.matching.fit import robust_spread
from ear.matching.form import RepeatForm
from ear.matching.grid import JUMP_COST, Ints, OnsetGrid, Onsets, make_grid, moments_of
from ear.matching.pace_fit import FittedPace, fit_pace
from ear.matching.pairing import ABSENT, Links, Places, link_notes, weakness
from ear.matching.path import NEAR_S, ShiftRange, Straight, best_path, straight_path
from ear.matching.runs import Path
from ear.notes import FOOT_HAT, HANDS, Hand, KitMap, Part, Take
from ear.units import TICKS_PER_QUARTER

TEMPO_COST = 2.0
"""Notes that another tempo must gain over the click's,"""
CHANGE_COST = 1.0
"""and each change of it."""
STANDS_IN_SHARE = 0.5
"""Of the foot's strokes that fall where a stroke of the stick is missing, from which they stand in for it."""
BENT_S, BENT_COST = 0.15, 2.0
"""Shifts further apart than this may be a tempo that changes, and a path that follows it unsaid costs notes, too."""
STEADY_PARTS, STEADY_NOTES, STEADY_END, STEADY_SHARE, STEADY_S = 8, 8, 6, 0.6, 0.05
"""A path leads all through if in each of so many parts, of so many notes at least, so many of them are right, all are so
near to their places, which by chance they are not, and no part is further from another."""
TRANSPOSITION_COST = 3.0
FAR_COST = 1.5
"""Notes that a path must gain that leads far from the click, over one that keeps near."""
PITCHES = 128
LEFT_OVER_SHARE = 0.04
"""Left-over notes, on both sides, that are worth another search."""


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
    """Return the better of two hypotheses; the first if they are equal."""
    return other if other.worth > best.worth + 1e-6 else best


class Matcher:
    """A target and a take as arrays, and what any hypothesis about them is worth."""

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
        self.known: dict[tuple[int, PlayerClock, ShiftRange], Hypothesis] = {}
        self.straight: dict[tuple[int, PlayerClock], tuple[OnsetGrid, Straight]] = {}
        self.followed: dict[int, Hypothesis] = {}
        self.worth_a_search = max(JUMP_COST, LEFT_OVER_SHARE * min(len(self.target), len(self.played)))

    @property
    def is_on_one_pad(self) -> bool:
        """All strokes on one pad, of a part for several."""
        return not self.has_key and len(np.unique(self.played.pitch)) == 1 < len(np.unique(self.target.pitch))

    def tell_other_pads(self, hypothesis: Hypothesis) -> None:
        """Mark strokes on pads that stand for another lane as wrong ones, though they are in their places."""
        linked = hypothesis.links.take_of != ABSENT
        hypothesis.links.is_wrong[linked] |= self.is_other_pad[hypothesis.links.take_of[linked]]

    def with_hands(self, octaves: Mapping[Hand, int]) -> "Matcher":
        """Return a matcher for the same take with its hands moved by octaves."""
        return Matcher(self.part, self.take, kit=self.kit, in_key=True, octaves=octaves)

    def tell_octaves(self, hypothesis: Hypothesis) -> None:
        """Mark notes of a hand in another octave as wrong ones, though they are in their places."""
        hypothesis.links.is_wrong[self.is_off & (hypothesis.links.take_of != ABSENT)] = True

    def transposed(self, semitones: int) -> Onsets:
        """Return the take's pitches moved down by so many semitones, by onset."""
        return Onsets(time=self.played.time, pitch=self.played.pitch - semitones)

    def struck_in(self, semitones: int) -> Onsets:
        """Return the same as `struck`, moved down by so many semitones."""
        return replace(self.struck, pitch=self.struck.pitch - semitones)

    def left_over(self, take: Onsets, links: Links) -> int:
        """Return the notes without a link of their own pitch that could still have one, judged by pitch alone."""
        wanted, there = (
            np.bincount(pitch[(pitch >= 0) & (pitch < PITCHES)], minlength=PITCHES)
            for pitch in (self.target.pitch[~links.target_is_right], take.pitch[~links.take_is_right])
        )
        return int(np.minimum(wanted, there).sum())

    def grid(self, take: Onsets, clock: PlayerClock) -> OnsetGrid:
        """Return the lattice of moments for a take on a clock."""
        return make_grid(
            self.target,
            Onsets(time=clock.own_at(take.time), pitch=take.pitch),
            quarters_per_second=self.quarters_per_second,
            bar_starts=self.bar_starts,
        )

    def hypothesis(self, *, transposition: int, clock: PlayerClock, reach: ShiftRange) -> Hypothesis:
        """Return the hypothesis for a key and a clock. It is searched once, however often it is asked for."""
        key = (transposition, clock, reach)
        if key not in self.known:
            take = self.transposed(transposition)
            if key[:2] not in self.straight:
                grid = self.grid(take, clock)
                self.straight[key[:2]] = grid, straight_path(grid)
            path = best_path(*self.straight[key[:2]], reach=reach)
            # Hypotheses are cached by key, clock and reach: the search asks for the same ones again and
            # again.
            # A wider search that finds the same path has found the same notes.
            straight = self.known.get((transposition, clock, ShiftRange.STRAIGHT))
            if straight is not None and straight.path is path:
                self.known[key] = straight
            else:
                self.known[key] = self.along_path(path, take, clock=clock, transposition=transposition)
        return self.known[key]

    def along_path(self, path: Path, take: Onsets, *, clock: PlayerClock, transposition: int) -> Hypothesis:
        """Return the notes linked along one path, with what that costs."""
        links = self.linked_at(self.places(path, clock), transposition)
        # Every liberty has a price in notes, so that a plain explanation wins unless another one links
        # more.
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
        """Return the notes linked at their places.

        A stroke of the foot hi-hat stands in for a missing stroke of the stick.
        """
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
            # A foot that mostly keeps time is not standing in for the stick, even where a stick stroke is
            # missing.
            if hat[by_foot].sum() < STANDS_IN_SHARE * self.is_foot.sum():
                # The foot beats time beside the stick: it is no stroke too late, and no other drum.
                links.target_of[links.take_of[by_foot]] = ABSENT
                links.take_of[by_foot] = ABSENT
                links.is_wrong[by_foot] = False
            else:
                links.is_wrong[by_foot[hat[by_foot]]] = False
        return links

    def is_bent(self, path: Path) -> bool:
        """Return whether a path jumps, or leads away from where it begins."""
        shift = path.shift[path.run >= 0]
        return bool(len(shift)) and float(np.ptp(shift)) > BENT_S * self.quarters_per_second

    def bends(self, path: Path) -> bool:
        """Return whether a path leads away from where one of its runs begins."""
        return any(
            float(np.ptp(path.shift[path.run == run])) > BENT_S * self.quarters_per_second
            for run in range(int(path.run.max(initial=-1)) + 1)
            if (path.run == run).any()
        )

    def is_far(self, path: Path) -> bool:
        """Return whether a path leads further from the click than the first search looks."""
        far = np.abs(np.nan_to_num(path.shift)) > NEAR_S * self.quarters_per_second
        return bool(far.any())

    def places(self, path: Path, clock: PlayerClock) -> Places:
        """Return the seconds of the take at which the path expects each note; for silent notes, by the run
        before them.
        """
        # A silent moment has no shift of its own; the run before it says where it would have been.
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

    def explains(self, hypothesis: Hypothesis, share: float) -> bool:
        """Return whether a hypothesis explains this share of the notes that could be linked."""
        return hypothesis.worth >= share * min(len(self.target), len(self.played))

    def along(self, *, transposition: int, clock: PlayerClock = CLICK) -> Hypothesis:
        """Search near the click, and further off only if enough notes are left unlinked to pay for it; return
        the best hypothesis.
        """
        best = self.hypothesis(transposition=transposition, clock=clock, reach=ShiftRange.NEAR)
        if best.left_over >= self.worth_a_search and not self.is_steady(best):
            best = better(
                best, self.hypothesis(transposition=transposition, clock=clock, reach=ShiftRange.FAR)
            )
        return best

    def is_steady(self, hypothesis: Hypothesis) -> bool:
        """Return whether a path without a jump leads through the whole take: in each part of it most notes are right, and so
        near to their places as they are by no chance. What is astray then is so note by note, and no jump explains it."""
        links, path = hypothesis.links, hypothesis.path
        if int(path.run.max(initial=-1)) != 0 or self.bends(path):
            return False
        right = links.target_is_right
        parts = np.array_split(right, max(1, min(STEADY_PARTS, len(right) // STEADY_NOTES)))
        # An end that slows down is short, and looked at by itself.
        ends = right[:STEADY_END], right[-STEADY_END:]
        if min(float(part.mean()) for part in (*parts, *ends)) < STEADY_SHARE:
            return False
        expected_s = self.places(path, hypothesis.clock).expected_s
        off = np.where(right, self.take_s[links.take_of] - expected_s, np.nan)
        middles = [float(np.nanmedian(part)) for part in np.array_split(off, len(parts))]
        return robust_spread(off[right]) <= STEADY_S and max(middles) - min(middles) <= STEADY_S

    @cached_property
    def form(self) -> RepeatForm:
        """What of the music is there twice."""
        bar = self.part.meters.first.bar_quarters
        return RepeatForm.of(self.moments, self.note_moment, self.target.pitch, bar)

    def linked(self, hypothesis: Hypothesis) -> LinkedRuns:
        """Return the linked target notes within runs, with the runs numbered without gaps."""
        # Runs whose notes are all unlinked disappear, so the rest are numbered without gaps.
        run = hypothesis.path.run[self.note_moment]
        i = np.nonzero((hypothesis.links.take_of != ABSENT) & (run >= 0))[0]
        _, number = np.unique(run[i], return_inverse=True)
        return LinkedRuns(target=i, run=number.astype(np.int64), runs=int(number.max(initial=-1)) + 1)

    def fitted(self, hypothesis: Hypothesis, linked: LinkedRuns) -> FittedPace:
        """Return the pace of the linked notes and the level of each run. At least one note must be linked."""
        written_s = self.target.time[linked.target] * self.seconds_per_quarter
        played_s = self.take_s[hypothesis.links.take_of[linked.target]]
        return fit_pace(written_s, played_s, linked.run, runs=linked.runs)
