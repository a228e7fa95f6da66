"""Measure and mark a take of an exercise without a target part.

Timing is the distance to the nearest line of the grid, Notes the share of notes inside the pitch
set, Flow the length filled and the density kept. Without a click the grid is the player's own:
period and phase are those for which the onsets gather most (the length of the mean vector of
their phases: Mardia and Jupp, "Directional Statistics", 2000, §2.3), then a slowly bending line
is fitted through them; nothing is said of lead, lag or tempo.
"""

from dataclasses import dataclass

import numpy as np

from ear.criteria import CriterionName
from ear.free.exercise import FreeExercise
from ear.judging.credits import credit, tenths
from ear.judging.judge import whole_shares
from ear.judging.judgement import CriterionScore, Line
from ear.judging.levels import Level, Window, window_for
from ear.judging.rubric import DEFAULT_RUBRICS, Band, Rubric
from ear.measuring.figures import Figure, Floats, WhyNot, figure, no_figure, robust_spread
from ear.notes import Take
from ear.units import TICKS_PER_QUARTER

PULSES = tuple(float(r) for r in np.geomspace(0.5, 2.0, 700))
"""Tempos tried against the one set, where there is no click: a fifth of a per cent apart."""
LEAST_FOR_PULSE = 4
BEND = 2
"""Degree of the line that follows a drifting pulse."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeMark:
    """Criteria with the whole per cents that they weigh, and the total of 100."""

    criteria: tuple[CriterionScore, ...]
    weights: tuple[int, ...]
    total: float
    band: Band


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeAssessment:
    """`deviation_ms` has one entry a note: from its grid line, by the click or the own pulse."""

    deviation_ms: Floats
    in_set: tuple[bool, ...]
    bar_of_note: tuple[int, ...]
    bias_ms: Figure
    spread_ms: Figure
    notes_a_bar: tuple[int, ...]
    repeated_share: Figure
    mark: FreeMark


def assess_free(
    exercise: FreeExercise, take: Take, *, level: Level, rubric: Rubric | None = None
) -> FreeAssessment:
    """An empty take has 0 in everything."""
    rubric = rubric or DEFAULT_RUBRICS[exercise.kind]
    onset_s = np.array([n.onset_s for n in take.notes])
    quarters = exercise.tempos.quarters(onset_s)
    if not exercise.has_click:
        quarters = _own_pulse(exercise, quarters)
    line = _nearest_lines(exercise, quarters)
    bpm = exercise.tempos.first_bpm
    deviation_ms = (quarters - line) * 60_000.0 / bpm
    if not exercise.has_click and len(quarters) > BEND + 1:
        deviation_ms = deviation_ms - np.polyval(np.polyfit(quarters, deviation_ms, BEND), quarters)
    bars = tuple(exercise.meters.bar_at(round(q * TICKS_PER_QUARTER)).number for q in line.tolist())
    in_set = tuple(exercise.is_allowed(n.pitch, bar=b) for n, b in zip(take.notes, bars, strict=True))
    counts = tuple(bars.count(number) for number in range(1, exercise.bars + 1))
    window = _window(exercise, level)
    bias = float(np.median(deviation_ms)) if len(deviation_ms) else 0.0
    repeated = _repeated(exercise, take, line, bars)
    criteria = (
        _notes(in_set),
        _timing(deviation_ms, bias, window, rubric.forgiven_bias_ms),
        _flow(exercise, counts, repeated),
    )
    return FreeAssessment(
        deviation_ms=deviation_ms,
        in_set=in_set,
        bar_of_note=bars,
        bias_ms=_bias(exercise, deviation_ms, bias),
        spread_ms=figure(robust_spread(deviation_ms)) if len(deviation_ms) else no_figure(WhyNot.NO_NOTES),
        notes_a_bar=counts,
        repeated_share=repeated,
        mark=_mark(criteria, rubric),
    )


def _mark(criteria: tuple[CriterionScore, ...], rubric: Rubric) -> FreeMark:
    set_weights = dict(rubric.weights)
    weights = whole_shares([set_weights.get(c.name, 0.0) for c in criteria])
    total = round(sum((c.score or 0.0) * w for c, w in zip(criteria, weights, strict=True)) / 100.0, 3)
    return FreeMark(criteria=criteria, weights=tuple(weights), total=total, band=rubric.band(total))


def _own_pulse(exercise: FreeExercise, quarters: Floats) -> Floats:
    """Times on the player's own pulse: the first note on a line, the tempo set as its measure."""
    if len(quarters) < LEAST_FOR_PULSE:
        return quarters - quarters[0] if len(quarters) else quarters
    from_first = quarters - quarters[0]
    grid = exercise.grid_ticks / TICKS_PER_QUARTER
    ratios = np.array(PULSES)
    phase = np.exp(2j * np.pi * np.outer(ratios, from_first) / grid)
    gathered = np.abs(phase.mean(axis=1))
    # A finer pulse gathers any notes: among those that gather as well, the nearest to the tempo set.
    good = gathered >= gathered.max() - 0.02
    best = int(np.argmin(np.where(good, np.abs(np.log(ratios)), np.inf)))
    offset = float(np.angle(phase[best].mean())) * grid / (2 * np.pi)
    own: Floats = from_first * ratios[best] - offset
    return own


def _nearest_lines(exercise: FreeExercise, quarters: Floats) -> Floats:
    """The grid line nearest to each time, in quarters; swing moves every second line."""
    grid = exercise.grid_ticks / TICKS_PER_QUARTER
    pair = 2 * grid
    middle = pair * exercise.swing / (1.0 + exercise.swing)
    start = np.floor(quarters / pair) * pair
    lines = np.stack([start, start + middle, start + pair])
    nearest = np.abs(lines - quarters).argmin(axis=0)
    found: Floats = np.take_along_axis(lines, nearest[None, :], axis=0)[0]
    return found


def _window(exercise: FreeExercise, level: Level) -> Window:
    closest = 2 * exercise.grid_ticks * min(1.0, exercise.swing) / (1.0 + exercise.swing)
    return window_for(level, bpm=exercise.tempos.first_bpm, grid_ticks=closest)


def _bias(exercise: FreeExercise, deviation_ms: Floats, bias: float) -> Figure:
    if not exercise.has_click:
        return no_figure(WhyNot.NO_CLICK)
    return figure(bias) if len(deviation_ms) else no_figure(WhyNot.NO_NOTES)


def _repeated(exercise: FreeExercise, take: Take, line: Floats, bars: tuple[int, ...]) -> Figure:
    """Share of what stands in the first bars of pairs that the second bars have again."""
    if not exercise.pairs_repeat:
        return no_figure(WhyNot.NO_REPEAT)
    held: dict[int, set[tuple[float, int]]] = {}
    for note, quarter, number in zip(take.notes, line.tolist(), bars, strict=True):
        start = exercise.meters.bar(number).start_tick / TICKS_PER_QUARTER
        held.setdefault(number, set()).add((round(quarter - start, 3), note.pitch))
    both = total = 0
    for number in range(1, exercise.bars, 2):
        first, second = held.get(number, set()), held.get(number + 1, set())
        both += len(first & second)
        total += max(len(first), len(second))
    return figure(both / total) if total else no_figure(WhyNot.NO_NOTES)


def _empty(name: CriterionName) -> CriterionScore:
    return CriterionScore(name=name, score=0.0, lines=(Line(code="take_empty"),))


def _notes(in_set: tuple[bool, ...]) -> CriterionScore:
    if not in_set:
        return _empty(CriterionName.NOTES)
    score = tenths(100.0 * sum(in_set) / len(in_set))
    line = Line(code="free_set", values={"right": sum(in_set), "of": len(in_set), "score": score})
    return CriterionScore(name=CriterionName.NOTES, score=score, lines=(line,))


def _timing(deviation_ms: Floats, bias: float, window: Window, forgiven_ms: float) -> CriterionScore:
    if not len(deviation_ms):
        return _empty(CriterionName.TIMING)
    forgiven = float(np.clip(bias, -forgiven_ms, forgiven_ms))
    credits = credit(np.abs(deviation_ms - forgiven), full=window.full_ms, none=window.none_ms)
    earned = round(float(credits.sum()), 2)
    score = tenths(100.0 * earned / len(credits))
    return CriterionScore(
        name=CriterionName.TIMING,
        score=score,
        lines=(
            Line(code="timing_window", values={"full": window.full_ms, "none": window.none_ms}),
            Line(code="timing_forgiven", values={"forgiven": forgiven}),
            Line(code="mean_credit", values={"earned": earned, "of": len(credits), "score": score}),
        ),
    )


def _flow(exercise: FreeExercise, counts: tuple[int, ...], repeated: Figure) -> CriterionScore:
    """Share of bars that hold as many notes as asked for; halved by what is not repeated."""
    kept = sum(max(1.0, exercise.least_a_bar) <= n <= exercise.most_a_bar for n in counts)
    score = tenths(100.0 * kept / len(counts))
    lines = [Line(code="free_bars", values={"right": kept, "of": len(counts), "score": score})]
    if repeated.value is not None:
        score = tenths(score * (0.5 + 0.5 * repeated.value))
        lines.append(
            Line(code="free_repeated", values={"percent": round(100 * repeated.value), "score": score})
        )
    return CriterionScore(name=CriterionName.FLOW, score=score, lines=tuple(lines))
