"""Where in the music a player is, moment by moment, at whatever tempo he plays: found by what he plays and by how evenly.

**Model.** The take is a row of strokes (onsets that fall together), the target one of moments. A state says that a stroke
plays a moment, and carries the tempo that the player has there: what a second of the click lasts. From stroke to stroke
he goes on by a moment or two; each step costs by how far the stroke is from where his tempo puts it, but never more than
`STRAY_COST`, so that he may wait, or change his tempo, at any place. He may also jump to any moment at `LEAP_COST`. A moment
earns a note for each of its pitches that sounds near the stroke, `OTHER_REWARD` for any other.

**Method.** Dynamic programming over strokes, all moments at once, the tempo kept with each best state and drawn to each
step in proportion to its length. Because the tempo is kept and not searched, the result is not the optimum of the model,
but near it, in O(strokes x moments). Beyond `WINDOW` moments only those about the likeliest are looked at.

**Sources.** Cemgil, Kappen, Desain and Honing, "On tempo tracking: tempogram representation and Kalman filtering"
(J. New Music Research 29, 2000) for a tempo that is carried along and corrected in proportion to the evidence; Raphael,
"A hybrid graphical model for rhythmic parsing" (Artificial Intelligence 137, 2002) for keeping it with the best states;
Nakamura, Nakamura and Sagayama (IEEE/ACM TASLP 24, 2016) for leaps of one cost.
"""

from dataclasses import dataclass

import numpy as np

from ear.matching.clock import PlayerClock
from ear.matching.fit import local_lines
from ear.matching.grid import Floats, Ints, Onsets, Scores, distinct, moments_of

MIN_SLOW, MAX_SLOW = 0.3, 3.4
"""What a second of the click may last."""
TOGETHER_S, STROKE_S = 0.03, 0.06
"""Onsets so near to the one before, and to the first, are one stroke."""
NEAR_S = 0.12
OTHER_REWARD = 0.15
MOMENTS_ON, STROKES_ON = 2, 5
"""A step may leave out a moment, and pass over four strokes (of a rolled chord, of notes too many)."""
MIN_OFF_S, OFF_SHARE = 0.04, 0.12
"""How far a stroke is off as a matter of course: always, and as a share of the step."""
OFF_COST = 0.3
STRAY_COST = 1.5
LEAP_COST = 3.5
LEFT_OUT_COST, PASSED_COST = 0.15, 0.05
"""For a moment left out, for a stroke passed over."""
LIKELY_TEMPO_COST = 0.3
"""For a first step at e times the click's tempo."""
INERTIA_S = 0.5
"""Of a step so long, half of what it says of the tempo is believed."""
MIN_DRAWN, MAX_DRAWN = 0.75, 1.33
"""No step draws the tempo further."""
WINDOW = 500
"""Moments, about the likeliest, that are looked at at once: thirty bars of semiquavers."""
NOWHERE = np.float32(-1e6)
WAIT_S, WAIT_QUARTERS = 0.25, 0.35
"""Who comes so much later than his tempo says has waited."""
AROUND = 6
"""Strokes to either side over which a tempo is taken."""
MIN_PACE = 0.2
"""On his clock nobody stands still: so much of his tempo it goes on at least."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Following:
    """Strokes of the take with the moments that they play, in order of the take: seconds of the take, seconds of the
    click, what a second of the click lasts there, and which follow on one another without a leap; all (n,)."""

    take_s: Floats
    written_s: Floats
    slowness: Floats
    run: Ints


def follow(target: Onsets, take: Onsets, *, take_s: Floats, seconds_per_quarter: float) -> Following:
    """Follow a take through its target; both hold at least one note."""
    moments, note_moment = moments_of(target.time)
    stroke = _strokes(take_s)
    at_s = np.bincount(stroke, take_s) / np.bincount(stroke)
    earned = _earned(target, take, note_moment, take_s=take_s, at_s=at_s)
    return _traced(_Walk(moments * seconds_per_quarter, at_s), earned)


def _strokes(take_s: Floats) -> Ints:
    number, first, before = -1, -np.inf, -np.inf
    strokes = []
    for at in take_s.tolist():
        if at - before > TOGETHER_S or at - first > STROKE_S:
            number, first = number + 1, at
        before = at
        strokes.append(number)
    return np.array(strokes, dtype=np.int64)


@dataclass(frozen=True, slots=True)
class _Earned:
    """What each pitch earns at each stroke, (pitches, strokes), and which pitches each moment has: rows of pitches, one
    for the first note of each moment, one for the second, …, the last row of `near` standing for none."""

    near: Scores
    rows: list[Ints]

    def at(self, stroke: int, low: int, high: int) -> Scores:
        """(high - low,) what moments earn at a stroke."""
        column = self.near[:, stroke]
        scores: Scores = column[self.rows[0][low:high]]
        for rows in self.rows[1:]:
            scores = scores + column[rows[low:high]]
        return scores


def _earned(target: Onsets, take: Onsets, note_moment: Ints, *, take_s: Floats, at_s: Floats) -> _Earned:
    pitches = distinct(target.pitch)
    near = np.zeros((len(pitches) + 1, len(at_s)), dtype=np.float32)
    for row, pitch in enumerate(pitches.tolist()):
        there = np.concatenate(([-np.inf], take_s[take.pitch == pitch], [np.inf]))
        after = np.clip(np.searchsorted(there, at_s), 1, len(there) - 1)
        away = np.minimum(there[after] - at_s, at_s - there[after - 1])
        near[row] = np.maximum(OTHER_REWARD, 1.0 - np.minimum(away / NEAR_S, 1.0) ** 2)
    row_of = np.searchsorted(pitches, target.pitch)
    first = np.flatnonzero(np.diff(note_moment, prepend=-1))
    place = np.arange(len(row_of)) - first[note_moment]
    rows = []
    for k in range(int(place.max()) + 1):
        of_moment = np.full(len(first), len(pitches))
        of_moment[note_moment[place == k]] = row_of[place == k]
        rows.append(of_moment)
    return _Earned(near, rows)


class _Walk:
    """The table of states, a few strokes of it at a time."""

    def __init__(self, written_s: Floats, at_s: Floats) -> None:
        self.written_s, self.at_s = written_s, at_s
        moments = len(written_s)
        self.score = np.full((STROKES_ON, moments + MOMENTS_ON), NOWHERE, dtype=np.float32)
        self.slow = np.ones_like(self.score)
        self.is_first = np.zeros(self.score.shape, dtype=bool)
        # Moments before the first are placed a thousand seconds away: steps from them cost too much to be
        # chosen.
        edged = np.concatenate((np.full(MOMENTS_ON, -1e3), written_s))
        self.steps = [
            (written_s - edged[MOMENTS_ON - a : -a]).astype(np.float32) for a in range(1, MOMENTS_ON + 1)
        ]
        # A long step says more about the tempo than a short one, which the player's unevenness hides.
        self.beliefs = [step / (step + np.float32(INERTIA_S)) for step in self.steps]
        self.every = np.arange(min(moments, WINDOW))
        edged = np.concatenate((np.full(STROKES_ON, -1e3), at_s))
        self.waits = np.stack(
            [at_s - edged[STROKES_ON - b : -b] for b in range(1, STROKES_ON + 1)], axis=1
        ).astype(np.float32)
        self.passed = (PASSED_COST * np.arange(STROKES_ON, dtype=np.float32))[:, None]
        self.best, self.best_at, self.best_slow = float(NOWHERE), (-1, -1), 1.0

    def band(self) -> tuple[int, int]:
        """Moments that are looked at."""
        moments = len(self.written_s)
        if moments <= WINDOW:
            return 0, moments
        # Only moments around the best one are looked at; a player further away than the window is found by
        # a leap.
        row = self.score[0]
        low = int(np.clip(int(row.argmax()) - MOMENTS_ON - WINDOW // 2, 0, moments - WINDOW))
        return low, low + WINDOW

    def step(self, stroke: int, earned: Scores, low: int, high: int) -> tuple[Scores, Ints]:
        """Scores of a stroke's states in the band, and the number of the step that each came by."""
        size = high - low
        waited = self.waits[stroke][:, None]
        choices = np.empty((MOMENTS_ON * STROKES_ON + 2, size), dtype=np.float32)
        slowed = np.empty_like(choices)
        has_first = bool(self.is_first.any())
        for a in range(1, MOMENTS_ON + 1):
            on, belief = self.steps[a - 1][low:high], self.beliefs[a - 1][low:high]
            columns = slice(MOMENTS_ON - a + low, MOMENTS_ON - a + high)
            rows = slice((a - 1) * STROKES_ON, a * STROKES_ON)
            slow, cost, drawn = self.slow[:, columns], choices[rows], slowed[rows]
            # The first stroke tells no tempo, so the step from it may have any; an unlikely one costs.
            if has_first:
                first = self.is_first[:, columns]
                slow = np.where(first, np.clip(waited / on, MIN_SLOW, MAX_SLOW), slow)
            expected = slow * on
            # How far the stroke is off, of what is a matter of course: then the cost, then the score.
            np.multiply(expected, OFF_SHARE, out=cost)
            cost += MIN_OFF_S
            np.divide(waited - expected, cost, out=cost)
            np.multiply(cost, cost, out=cost)
            cost *= OFF_COST
            # However far off a stroke is, it is at worst a stray note.
            np.minimum(cost, STRAY_COST, out=cost)
            if has_first:
                cost += np.where(first, LIKELY_TEMPO_COST * np.abs(np.log(slow)), 0.0)
            np.subtract(self.score[:, columns], cost, out=cost)
            cost -= self.passed + LEFT_OUT_COST * (a - 1)
            # The tempo on the step, over the one before it.
            np.divide(waited, expected, out=drawn)
            np.minimum(drawn, MAX_DRAWN, out=drawn)
            np.maximum(drawn, MIN_DRAWN, out=drawn)
            drawn -= 1.0
            drawn *= belief
            drawn += 1.0
            drawn *= slow
        # The last two choices are no steps: a leap from the best state so far, and a beginning here.
        choices[-2], slowed[-2] = self.best - LEAP_COST, self.best_slow
        choices[-1], slowed[-1] = 0.0, 1.0
        by = choices.argmax(axis=0)
        every = self.every[:size]
        score = choices[by, every] + earned
        self._keep(stroke, score, slowed[by, every], by == len(choices) - 1, low, high)
        return score, by

    def _keep(self, stroke: int, score: Scores, slow: Scores, first: np.ndarray, low: int, high: int) -> None:
        # Only the last STROKES_ON strokes can be stepped from, so the table is a short queue.
        for kept in (self.score, self.slow, self.is_first):
            kept[1:] = kept[:-1]
        self.score[0] = NOWHERE
        inside = slice(MOMENTS_ON + low, MOMENTS_ON + high)
        self.score[0, inside] = score
        self.slow[0, inside] = np.clip(slow, MIN_SLOW, MAX_SLOW)
        self.is_first[0, inside] = first
        best = int(score.argmax())
        if score[best] > self.best:
            self.best, self.best_at = float(score[best]), (stroke, low + best)
            self.best_slow = float(self.slow[0, MOMENTS_ON + low + best])


def _traced(walk: _Walk, earned: _Earned) -> Following:
    steps: list[tuple[int, Ints, Scores]] = []
    leaps_from: list[tuple[int, int]] = []
    for stroke in range(len(walk.at_s)):
        low, high = walk.band()
        leaps_from.append(walk.best_at)
        _, by = walk.step(stroke, earned.at(stroke, low, high), low, high)
        steps.append((low, by, walk.slow[0, MOMENTS_ON + low : MOMENTS_ON + high].copy()))
    path: list[tuple[int, int, float, int]] = []
    (stroke, moment), run, leap = walk.best_at, 0, MOMENTS_ON * STROKES_ON
    while stroke >= 0:
        low, by, slow = steps[stroke]
        path.append((stroke, moment, float(slow[moment - low]), run))
        step = int(by[moment - low])
        if step > leap:
            break
        if step == leap:
            (stroke, moment), run = leaps_from[stroke], run + 1
        else:
            stroke, moment = stroke - step % STROKES_ON - 1, moment - step // STROKES_ON - 1
    path.reverse()
    slowness = np.array([s for _, _, s, _ in path])
    # The first stroke tells no tempo: it is that of the step from it.
    slowness[:1] = slowness[1:2] if len(slowness) > 1 else slowness[:1]
    strokes, moments = [s for s, _, _, _ in path], [m for _, m, _, _ in path]
    return Following(
        take_s=walk.at_s[strokes],
        written_s=walk.written_s[moments],
        slowness=slowness,
        run=run - np.array([r for _, _, _, r in path], dtype=np.int64),
    )


def clock_of(followed: Following, *, quarters_per_second: float) -> PlayerClock | None:
    """Return the player's clock from where the player was followed: the tempo over a few strokes, continued
    where the player waits or jumps.

    None if too little was followed to tell a tempo.
    """
    t, x = followed.take_s, followed.written_s
    if len(t) < 2:
        return None
    expected = followed.slowness[:-1] * np.diff(x)
    late = np.abs(np.diff(t) - expected)
    waits = late > np.maximum(WAIT_S, WAIT_QUARTERS / quarters_per_second * followed.slowness[:-1])
    breaks = waits | (np.diff(followed.run) != 0)
    number = np.concatenate(([0], np.cumsum(breaks)))
    edges = np.searchsorted(number, np.arange(number[-1] + 2))
    here = np.arange(len(t))
    first = np.maximum(here - AROUND, edges[number])
    after = np.minimum(here + AROUND + 1, edges[number + 1])
    place, slope = local_lines(t, x, first, after)
    alone = after - first < 3
    slope = np.where(alone | (slope <= 0.0), 1.0 / followed.slowness, slope)
    slope = np.clip(slope, 1.0 / MAX_SLOW, 1.0 / MIN_SLOW)
    held = np.diff(t) * np.sqrt(slope[:-1] * slope[1:])
    on = np.where(breaks, held, np.maximum(np.diff(np.where(alone, x, place)), MIN_PACE * held))
    own = t[0] * slope[0] + np.concatenate(([0.0], np.cumsum(on)))
    # One tempo before the first stroke and behind the last.
    t = np.concatenate(([t[0] - 1.0], t, [t[-1] + 1.0]))
    own = np.concatenate(([own[0] - slope[0]], own, [own[-1] + slope[-1]]))
    return PlayerClock(take=t * quarters_per_second, own=own * quarters_per_second)
