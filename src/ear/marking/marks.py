"""From measures to a mark, with every sum kept.

Each criterion is 0 to 100. Its working is a list of lines, each a label with its figures, that
a page prints as they stand; the last line says what the score is.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ear.marking.levels import Level, Window, window_for
from ear.marking.rubric import Band, CriterionName, Rubric
from ear.matching.outcome import Match, SlipKind
from ear.measuring.dynamics import NO_TOUCH
from ear.measuring.figures import Floats
from ear.measuring.measures import Counts, Measures
from ear.notes import Part, Take

EXTRA_WEIGHT, DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.25
"""What a note too many weighs against a target note. Notes of an abandoned try weigh nothing
here: they cost Flow."""

SLIP_COSTS = {
    SlipKind.LATE_START: 10.0,
    SlipKind.EARLY_START: 10.0,
    SlipKind.SLIP: 12.0,
    SlipKind.RECOVERY: 4.0,
    SlipKind.RESTART: 20.0,
    SlipKind.SKIP: 15.0,
    SlipKind.SKIP_BAR: 15.0,
}
"""Points of Flow. A recovery is cheap: finding back to the click is a skill."""
UNFINISHED_COST = 100.0
"""Points of Flow for the whole part left unplayed at the end; in proportion for less."""
TEMPO_COST_PER_PERCENT = 1.0
TEMPO_COST_MOST = 40.0

CONTRAST_LEAST = 4.0
"""Velocity steps of written accent contrast below which it is not assessed."""
CONTOUR_FULL = 0.8
"""Rank correlation that counts as the target's shape."""
UNEVEN_FULL, UNEVEN_NONE = 6.0, 25.0
"""SD of velocity among notes written alike: full credit up to, none from."""
LEVEL_FULL, LEVEL_NONE = 15.0, 60.0
"""Mean velocity difference, either way."""
LENGTH_FULL_OCTAVES, LENGTH_NONE_OCTAVES = 0.3, 1.6
"""Length ratio on a log scale: full from 0.81 to 1.23 times, none from 0.33 or 3 times."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkingLine:
    """One line of a sum: what, and its figure with unit (text ready to print)."""

    label: str
    figure: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Criterion:
    """`score` is None where it is not assessed; then `weight` is 0 and the working says why.

    `weight` is the share of the total in per cent, after re-weighting; `set_weight` is the
    rubric's own figure.
    """

    name: CriterionName
    score: float | None
    weight: float
    set_weight: float
    working: tuple[WorkingLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """The criteria, each with its working, and the total."""

    criteria: tuple[Criterion, ...]
    score: float
    band: Band
    window: Window
    within_window: float | None = None
    """Share of notes in full credit; None where no note was played, or in a mark weighed anew."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Scored:
    """A criterion before it is weighed."""

    score: float | None
    working: tuple[WorkingLine, ...]


def credit(size: Floats, *, full: float, none: float) -> Floats:
    """1 up to `full`, 0 from `none`, linear between; elementwise on sizes >= 0."""
    found: Floats = np.clip((none - size) / max(none - full, 1e-9), 0.0, 1.0)
    return found


def mark(part: Part, take: Take, found: Match, measures: Measures, *, level: Level, rubric: Rubric) -> Mark:
    """The mark of a measured take. An empty or foreign take has 0 in all that is assessed."""
    window = window_for(level, part, grid_ticks=measures.grid_ticks, tempo_ratio=measures.timing.tempo_ratio)
    scored: dict[CriterionName, _Scored] = {}
    for name, _ in rubric.weights:
        if not measures.counts.matched and not measures.counts.wrong_pitch:
            scored[name] = _nothing_played(take, found)
            continue
        match name:
            case CriterionName.NOTES:
                scored[name] = score_notes(measures.counts)
            case CriterionName.TIMING:
                scored[name] = _timing(measures, window=window, forgiven_ms=rubric.forgiven_bias_ms)
            case CriterionName.FLOW:
                scored[name] = _flow(part, found, measures)
            case CriterionName.DYNAMICS:
                scored[name] = _dynamics(measures)
            case CriterionName.LENGTH:
                scored[name] = _length(measures)
    marked = weigh(
        [(name, weight, scored[name].score, scored[name].working) for name, weight in rubric.weights],
        rubric=rubric,
        window=window,
    )
    judged = np.abs(_judged_ms(measures, forgiven_ms=rubric.forgiven_bias_ms))
    within = float(np.mean(judged <= window.full_ms)) if len(judged) else None
    return replace(marked, within_window=within)


def _judged_ms(measures: Measures, *, forgiven_ms: float) -> Floats:
    """Deviations with the forgiven lead or lag taken off."""
    bias = measures.timing.bias_ms.value or 0.0
    judged: Floats = measures.timing.steady_ms + bias - float(np.clip(bias, -forgiven_ms, forgiven_ms))
    return judged


def weigh(
    rows: Sequence[tuple[CriterionName, float, float | None, tuple[WorkingLine, ...]]],
    *,
    rubric: Rubric,
    window: Window,
) -> Mark:
    """Criteria to a total: what is not assessed gives its weight to the others in proportion."""
    whole = sum(weight for _, weight, score, _ in rows if score is not None)
    criteria = tuple(
        Criterion(
            name=name,
            score=score,
            weight=100.0 * weight / whole if score is not None and whole else 0.0,
            set_weight=weight,
            working=working,
        )
        for name, weight, score, working in rows
    )
    total = sum(c.score * c.weight / 100.0 for c in criteria if c.score is not None)
    return Mark(criteria=criteria, score=total, band=rubric.band(total), window=window)


def signed(value: float) -> str:
    """A whole number with its sign, a real minus."""
    return f"{round(value):+d}".replace("-", "−")


def _line(label: str, figure: str) -> WorkingLine:
    return WorkingLine(label=label, figure=figure)


def _nothing_played(take: Take, found: Match) -> _Scored:
    if not take.notes:
        why = "the take is empty"
    elif found.is_foreign:
        why = "the take is of something else"
    else:
        why = "no note of the part was found"
    return _Scored(score=0.0, working=(_line(why, "0"),))


def score_notes(counts: Counts) -> _Scored:
    too_many = EXTRA_WEIGHT * counts.extras + DOUBLE_WEIGHT * counts.doubles + GRAZE_WEIGHT * counts.grazes
    score = 100.0 * counts.matched / (counts.target + too_many)
    lines = [
        _line("notes of the part", f"{counts.target}"),
        _line("right", f"{counts.matched}"),
        _line("wrong key or pad", f"{counts.wrong_pitch}"),
        _line("missed", f"{counts.missed}"),
    ]
    for label, count, weight in (
        ("extra notes, each 1", counts.extras, EXTRA_WEIGHT),
        ("doubles, each ½", counts.doubles, DOUBLE_WEIGHT),
        ("grazes, each ¼", counts.grazes, GRAZE_WEIGHT),
    ):
        if count:
            lines.append(_line(label, f"{count} → {count * weight:g}"))
    lines.append(
        _line("right ÷ (notes + weighed extras)",
              f"{counts.matched} ÷ {counts.target + too_many:g} = {score:.0f}")
    )  # fmt: skip
    return _Scored(score=score, working=tuple(lines))


def _timing(measures: Measures, *, window: Window, forgiven_ms: float) -> _Scored:
    bias = measures.timing.bias_ms.value or 0.0
    left = bias - float(np.clip(bias, -forgiven_ms, forgiven_ms))
    judged = np.abs(_judged_ms(measures, forgiven_ms=forgiven_ms))
    credits = credit(judged, full=window.full_ms, none=window.none_ms)
    score = 100.0 * float(np.mean(credits))
    full = int(np.sum(credits >= 1.0))
    some = int(np.sum((credits > 0.0) & (credits < 1.0)))
    lines = [
        _line("full credit up to", f"{window.full_ms:.0f} ms"),
        _line("none from", f"{window.none_ms:.0f} ms"),
        _line("constant lead or lag", f"{signed(bias)} ms, of which {signed(bias - left)} forgiven"),
        _line("notes with full credit", f"{full}"),
        _line("with part of it", f"{some}, {float(np.sum(credits)) - full:.1f} in all"),
        _line("with none", f"{len(credits) - full - some}"),
        _line("mean credit", f"{float(np.sum(credits)):.1f} ÷ {len(credits)} = {score:.0f}"),
    ]
    return _Scored(score=score, working=tuple(lines))


SLIP_WORDS = {
    SlipKind.LATE_START: "late start",
    SlipKind.EARLY_START: "early start",
    SlipKind.SLIP: "slip",
    SlipKind.RECOVERY: "recovery",
    SlipKind.RESTART: "restart",
    SlipKind.SKIP: "skip",
    SlipKind.SKIP_BAR: "bar skipped",
}


def _flow(part: Part, found: Match, measures: Measures) -> _Scored:
    lines, total = [], 0.0
    for slip in found.time_base.slips:
        cost = SLIP_COSTS[slip.kind]
        bar = part.meters.bar_at(slip.quarter * 480).number
        lines.append(_line(f"{SLIP_WORDS[slip.kind]} in bar {bar}", f"−{cost:g}"))
        total += cost
    bars = len(part.bars)
    if measures.unplayed_bars_at_end:
        cost = UNFINISHED_COST * measures.unplayed_bars_at_end / bars
        lines.append(
            _line(f"{measures.unplayed_bars_at_end} of {bars} bars unplayed at the end", f"−{cost:.0f}")
        )
        total += cost
    off = abs(measures.timing.tempo_ratio - 1.0) * 100.0 if measures.has_click else 0.0
    if off:
        cost = min(TEMPO_COST_MOST, TEMPO_COST_PER_PERCENT * off)
        lines.append(
            _line(
                f"{measures.timing.played_bpm:.0f} instead of {part.tempos.first_bpm:g} a minute",
                f"−{cost:.0f}",
            )
        )
        total += cost
    score = max(0.0, 100.0 - total)
    if not lines:
        lines.append(_line("no slip, stop or restart, to the end", "100"))
    lines.append(_line("100 less the costs", f"{score:.0f}"))
    return _Scored(score=score, working=tuple(lines))


def _dynamics(measures: Measures) -> _Scored:
    """The mean of what the part has: accents, shape, evenness, level."""
    dynamics = measures.dynamics
    if dynamics.level.value is None:
        why = dynamics.level.why_not or NO_TOUCH
        return _Scored(score=None, working=(_line("not assessed", why),))
    parts: list[tuple[str, str, float]] = []
    contrast, written = dynamics.accent_contrast.value, dynamics.target_accent_contrast.value
    if contrast is not None and written is not None and written >= CONTRAST_LEAST:
        value = float(np.clip(contrast / written, 0.0, 1.0))
        parts.append(("accents", f"{signed(contrast)} of {signed(written)} written", value))
    if dynamics.contour.value is not None:
        value = float(np.clip(dynamics.contour.value / CONTOUR_FULL, 0.0, 1.0))
        parts.append(("shape", f"rank correlation {dynamics.contour.value:.2f}", value))
    if dynamics.evenness.value is not None:
        size = np.array(dynamics.evenness.value)
        value = float(credit(size, full=UNEVEN_FULL, none=UNEVEN_NONE))
        parts.append(("evenness", f"{dynamics.evenness.value:.0f} steps among notes written alike", value))
    size = np.array(abs(dynamics.level.value))
    value = float(credit(size, full=LEVEL_FULL, none=LEVEL_NONE))
    parts.append(("level", f"{signed(dynamics.level.value)} steps", value))
    score = 100.0 * sum(v for _, _, v in parts) / len(parts)
    lines = [_line(label, f"{what} → {100 * v:.0f}") for label, what, v in parts]
    lines.append(_line("mean", f"{score:.0f}"))
    return _Scored(score=score, working=tuple(lines))


def _length(measures: Measures) -> _Scored:
    ratios = np.array([n.length_ratio for n in measures.notes if n.length_ratio is not None])
    if not len(ratios):
        why = measures.length_ratio.why_not or "no lengths"
        return _Scored(score=None, working=(_line("not assessed", why),))
    credits = credit(np.abs(np.log2(ratios)), full=LENGTH_FULL_OCTAVES, none=LENGTH_NONE_OCTAVES)
    score = 100.0 * float(np.mean(credits))
    return _Scored(
        score=score,
        working=(
            _line("full credit from", f"{2**-LENGTH_FULL_OCTAVES:.2f} to {2**LENGTH_FULL_OCTAVES:.2f} of the written length"),
            _line("none from", f"{2**-LENGTH_NONE_OCTAVES:.2f} or {2**LENGTH_NONE_OCTAVES:.1f} times"),
            _line("middle note", f"{float(np.median(ratios)):.2f} of the written length"),
            _line("mean credit", f"{float(np.sum(credits)):.1f} ÷ {len(ratios)} = {score:.0f}"),
        ),
    )  # fmt: skip
