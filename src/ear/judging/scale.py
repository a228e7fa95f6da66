"""A scale set by ear: eight robot takes of graded roughness, heard and marked; level, floor and weights fitted.

Every setting of level, floor, the two large weights and the ceilings on a grid is tried, each take's mark
compared with the teacher's; the smallest sum of squares wins, and of settings that come as near, the one
nearest to the default. Marks that no such scale can give are refused: where one take is no worse than
another in anything at any level of strictness, it cannot be worth clearly less.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product
from random import Random

import numpy as np

from ear.criteria.levels import DEFAULT_LEVEL, LEVELS, Level
from ear.criteria.notes import NOTES
from ear.criteria.table import CRITERIA
from ear.criteria.timing import TIMING
from ear.criterion import CriterionKey
from ear.errors import EarError
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.judging.judge import Rules, judge, score
from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.measuring.figures import Floats
from ear.notes import Kind, Part, Take
from ear.players.robot import Habits, play

TAKES = 8
GRADES = (
    Habits(spread_ms=8, velocity_spread=4),
    Habits(spread_ms=26, velocity_spread=5),
    Habits(spread_ms=48, velocity_spread=6),
    Habits(spread_ms=85, velocity_spread=6),
    Habits(spread_ms=10, velocity_spread=5, wrong_keys=0.08),
    Habits(spread_ms=14, velocity_spread=6, wrong_keys=0.2),
    Habits(spread_ms=40, velocity_spread=8, wrong_keys=0.12, misses=0.04),
    Habits(spread_ms=22, velocity_spread=6, misses=0.15),
)
"""From clean to rough, in time, in notes, and in both."""
FLOORS = tuple(float(percent) for percent in range(0, 85, 5))
MIN_REST = 5
PAIRS = np.array([(n, t) for n in range(10, 75, 5) for t in range(10, 75, 5) if n + t <= 100 - MIN_REST])
"""Per cent that Notes, and that Timing, weigh; the rest is shared as in the default. (pairs, 2)"""
CONTRADICTS_FROM = 5.0
"""Points by which a take that is no worse may be marked lower: nobody's ear is finer over eight takes."""
NO_WORSE = 0.5
"""Points of a criterion that make no take worse."""
NEARER_TO_DEFAULT = 1e-3
"""What a step from the default costs against squares of points: it decides among equals."""


class ContradictoryMarks(EarError):
    """Two takes are marked against each other; both by their places in the list, from 0."""

    def __init__(self, *, worse: int, better: int) -> None:
        self.worse, self.better = worse, better
        super().__init__("marks_contradict", worse=worse, better=better)


@dataclass(frozen=True, slots=True, kw_only=True)
class Graded:
    """A take to be heard, with what was measured in it."""

    take: Take
    facts: Facts


@dataclass(frozen=True, slots=True, kw_only=True)
class FittedRubric:
    """A rubric that marks as the teacher does, as near as one can; `marks` are its own, in her order."""

    rubric: Rubric
    marks: tuple[float, ...]
    greatest: float
    """The greatest difference, in points."""


def graded_takes(part: Part, *, seed: int) -> tuple[Graded, ...]:
    """Return eight graded takes, shuffled. The same seed gives the same takes."""
    takes = [play(part, habits, seed=seed * 100 + k) for k, habits in enumerate(GRADES)]
    Random(seed).shuffle(takes)
    return tuple(Graded(take=take, facts=extract_facts(part, take)) for take in takes)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Setting:
    level: Level
    floor: float
    notes: int
    timing: int
    has_ceilings: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class _Seen:
    """Scores of the takes: by level Timing, by floor Notes, and the mean of the rest; all (takes,)."""

    timing: dict[str, Floats]
    notes: dict[float, Floats]
    rest: Floats
    likeness: Floats


def fit(kind: Kind, facts: Sequence[Facts], marks: Sequence[float]) -> FittedRubric:
    """Fit a scale to a teacher's marks, 0 to 100, one for each take. Raises ContradictoryMarks."""
    own = _asked(DEFAULT_RUBRICS[kind], facts)
    seen, wanted = _see(facts, own), np.array(marks, dtype=np.float64)
    _check(seen, wanted)
    best: tuple[float, _Setting] | None = None
    for level, floor, with_ceilings in product(LEVELS.values(), FLOORS, (True, False)):
        given = _marks(seen, level, floor, with_ceilings=with_ceilings)
        off = np.mean((given - wanted) ** 2, axis=1)
        off += NEARER_TO_DEFAULT * _steps(own, level, floor, with_ceilings=with_ceilings)
        k = int(np.argmin(off))
        if best is None or off[k] < best[0]:
            notes, timing = PAIRS[k].tolist()
            best = (
                float(off[k]),
                _Setting(level=level, floor=floor, notes=notes, timing=timing, has_ceilings=with_ceilings),
            )
    assert best is not None
    rubric = _with_unasked(_rubric(own, best[1]), DEFAULT_RUBRICS[kind])
    exact = tuple(judge(f, Rules(rubric=rubric, level=DEFAULT_LEVEL)).total for f in facts)
    greatest = max(abs(a - b) for a, b in zip(exact, marks, strict=True))
    return FittedRubric(rubric=rubric, marks=exact, greatest=greatest)


def _asked(own: Rubric, facts: Sequence[Facts]) -> Rubric:
    """The rubric of what these takes are asked for, its weights per cent: what the part has nothing of says
    nothing of a teacher's scale."""
    asked = [(n, w) for n, w in own.weights if all(CRITERIA[n].is_asked(f) for f in facts)]
    whole = sum(weight for _, weight in asked)
    return replace(own, weights=tuple((name, 100.0 * weight / whole) for name, weight in asked))


def _with_unasked(fitted: Rubric, default: Rubric) -> Rubric:
    has = dict(fitted.weights)
    return replace(fitted, weights=tuple((name, has.get(name, weight)) for name, weight in default.weights))


def _see(facts: Sequence[Facts], own: Rubric) -> _Seen:
    timing, notes = {}, {}
    rest: Floats = np.zeros(len(facts))
    for level in LEVELS.values():
        scored = [score(f, Rules(rubric=own, level=level)) for f in facts]
        by = [{c.name: c.score for c in one.criteria} for one in scored]
        timing[level.key] = np.array([one[TIMING] for one in by], dtype=np.float64)
        rest = np.array([_rest(one, own) for one in by])
    for floor in FLOORS:
        rules = Rules(rubric=replace(own, floor_percent=floor), level=DEFAULT_LEVEL)
        notes[floor] = np.array([score(f, rules).criteria[0].score for f in facts], dtype=np.float64)
    return _Seen(timing=timing, notes=notes, rest=rest, likeness=np.array([f.take.likeness for f in facts]))


def _others(own: Rubric) -> list[tuple[CriterionKey, float]]:
    main = (NOTES, TIMING)
    return [(name, weight) for name, weight in own.weights if name not in main]


def _rest(scores: dict[CriterionKey, float | None], own: Rubric) -> float:
    weighted_scores = [(scores[name], weight) for name, weight in _others(own)]
    whole = sum(weight for value, weight in weighted_scores if value is not None)
    return (
        sum(value * weight for value, weight in weighted_scores if value is not None) / whole
        if whole
        else 100.0
    )


def _check(seen: _Seen, wanted: Floats) -> None:
    """Is a take marked clearly lower than one that it is no worse than, whatever the scale?"""
    columns = [*seen.timing.values(), *seen.notes.values(), seen.rest]
    worst: tuple[float, int, int] | None = None
    for a, b in product(range(len(wanted)), repeat=2):
        gap = float(wanted[b] - wanted[a])
        is_no_worse = all(column[a] >= column[b] - NO_WORSE for column in columns)
        if a != b and gap > CONTRADICTS_FROM and is_no_worse and (worst is None or gap > worst[0]):
            worst = (gap, a, b)
    if worst is not None:
        raise ContradictoryMarks(worse=worst[1], better=worst[2])


def _marks(seen: _Seen, level: Level, floor: float, *, with_ceilings: bool) -> Floats:
    """By each pair of weights, of each take: (pairs, takes)."""
    by_notes, by_timing = seen.notes[floor], seen.timing[level.key]
    rest = 100 - PAIRS.sum(axis=1)
    total: Floats = np.column_stack((PAIRS, rest)) @ np.stack((by_notes, by_timing, seen.rest)) / 100.0
    if with_ceilings:
        for scores, key in ((by_notes, NOTES), (by_timing, TIMING)):
            bound = CRITERIA[key].ceiling
            assert bound is not None
            total = np.minimum(total, bound.least + bound.rate * scores)
        total = np.minimum(total, np.where(seen.likeness < 1.0, 100.0 * seen.likeness, 100.0))
    return total


def _steps(own: Rubric, level: Level, floor: float, *, with_ceilings: bool) -> Floats:
    """How far each pair of weights, so set, is from the default: (pairs,)."""
    keys, weights = list(LEVELS), dict(own.weights)
    default = np.array([weights[NOTES], weights[TIMING]])
    away: Floats = np.abs(PAIRS - default).sum(axis=1) / 5
    away += abs(keys.index(level.key) - keys.index(DEFAULT_LEVEL.key))
    away += abs(floor - level.floor_percent) / 5 + (0 if with_ceilings else 2)
    return away


def _rubric(own: Rubric, setting: _Setting) -> Rubric:
    others = _others(own)
    rate = (100 - setting.notes - setting.timing) / sum(weight for _, weight in others)
    weights = {NOTES: float(setting.notes), TIMING: float(setting.timing)}
    weights |= {name: round(weight * rate, 2) for name, weight in others}
    return replace(
        own,
        level=setting.level,
        floor_percent=setting.floor,
        weights=tuple((name, weights[name]) for name, _ in own.weights),
        has_ceilings=setting.has_ceilings,
    )
