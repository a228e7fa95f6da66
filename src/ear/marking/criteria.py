"""What a take scores in each measured criterion, 0 to 100, with its sum and with the notes that cost most.

A working is a list of lines, each a label with its figures, that a page prints as they stand; the last
line says what the score is.
"""

from dataclasses import dataclass, replace

import numpy as np

from ear.marking.basis import Basis
from ear.marking.levels import Window
from ear.marking.rubric import CriterionName
from ear.matching.outcome import SlipKind
from ear.measuring.dynamics import NO_TOUCH
from ear.measuring.figures import Floats, Ints
from ear.measuring.measures import Counts

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
class RowCost:
    """Points that one row of the match has cost."""

    row: int
    points: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Scored:
    """A criterion before it is weighed. `costs` are the rows of the match that lost it points of its 100."""

    score: float | None
    working: tuple[WorkingLine, ...]
    costs: tuple["RowCost", ...] = ()


def credit(size: Floats, *, full: float, none: float) -> Floats:
    """1 up to `full`, 0 from `none`, linear between; elementwise on sizes >= 0."""
    found: Floats = np.clip((none - size) / max(none - full, 1e-9), 0.0, 1.0)
    return found


def score(basis: Basis, name: CriterionName, *, window: Window, forgiven_ms: float) -> Scored:
    """One criterion of a take. Of a take in which no note of the part was found, 0 in all."""
    if basis.is_nothing:
        return _nothing_played(basis)
    match name:
        case CriterionName.NOTES:
            return _notes(basis)
        case CriterionName.TIMING:
            return _timing(basis, window=window, forgiven_ms=forgiven_ms)
        case CriterionName.FLOW:
            return _flow(basis)
        case CriterionName.DYNAMICS:
            return _dynamics(basis)
        case CriterionName.LENGTH:
            return _length(basis)


def signed(value: float) -> str:
    """A whole number with its sign, a real minus."""
    return f"{round(value):+d}".replace("-", "−")


def _line(label: str, figure: str) -> WorkingLine:
    return WorkingLine(label=label, figure=figure)


def _nothing_played(basis: Basis) -> Scored:
    if not basis.counts.take:
        why = "the take is empty"
    elif basis.is_foreign:
        why = "the take is of something else"
    else:
        why = "no note of the part was found"
    return Scored(score=0.0, working=(_line(why, "0"),))


def _too_many(counts: Counts) -> float:
    return EXTRA_WEIGHT * counts.extras + DOUBLE_WEIGHT * counts.doubles + GRAZE_WEIGHT * counts.grazes


def _notes(basis: Basis) -> Scored:
    """What is missing to 100 is shared among the rows at fault, by their weights: it adds up."""
    each = 100.0 / (basis.counts.target + _too_many(basis.counts))
    weights = {"extra": EXTRA_WEIGHT, "double": DOUBLE_WEIGHT, "graze": GRAZE_WEIGHT}
    costs = [RowCost(row=row, points=each) for row in basis.wrong_rows]
    costs += [RowCost(row=row, points=each * weights[what]) for row, what in basis.many_rows]
    return replace(score_notes(basis.counts), costs=tuple(costs))


def score_notes(counts: Counts) -> Scored:
    too_many = _too_many(counts)
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
    return Scored(score=score, working=tuple(lines))


def _judged(basis: Basis, *, forgiven_ms: float) -> Floats:
    """Sizes of deviations with the forgiven lead or lag taken off."""
    sizes: Floats = np.abs(basis.judged_ms - np.clip(basis.bias_ms, -forgiven_ms, forgiven_ms))
    return sizes


def within_window(basis: Basis, *, window: Window, forgiven_ms: float) -> float | None:
    """Share of notes in full credit; None where no note was played."""
    sizes = _judged(basis, forgiven_ms=forgiven_ms)
    return float(np.mean(sizes <= window.full_ms)) if len(sizes) else None


def _timing(basis: Basis, *, window: Window, forgiven_ms: float) -> Scored:
    forgiven = float(np.clip(basis.bias_ms, -forgiven_ms, forgiven_ms))
    credits = credit(_judged(basis, forgiven_ms=forgiven_ms), full=window.full_ms, none=window.none_ms)
    score = 100.0 * float(np.mean(credits))
    full = int(np.sum(credits >= 1.0))
    some = int(np.sum((credits > 0.0) & (credits < 1.0)))
    lines = [
        _line("full credit up to", f"{window.full_ms:.0f} ms"),
        _line("none from", f"{window.none_ms:.0f} ms"),
        _line("constant lead or lag", f"{signed(basis.bias_ms)} ms, of which {signed(forgiven)} forgiven"),
        _line("notes with full credit", f"{full}"),
        _line("with part of it", f"{some}, {float(np.sum(credits)) - full:.1f} in all"),
        _line("with none", f"{len(credits) - full - some}"),
        _line("mean credit", f"{float(np.sum(credits)):.1f} ÷ {len(credits)} = {score:.0f}"),
    ]
    return Scored(score=score, working=tuple(lines), costs=_lost(basis.deviation_row, credits))


def _lost(rows: Ints, credits: Floats) -> tuple[RowCost, ...]:
    """What each row has lost of a mean of credits, in points of 100."""
    each = 100.0 / max(1, len(credits))
    return tuple(
        RowCost(row=row, points=each * (1.0 - found))
        for row, found in zip(rows.tolist(), credits.tolist(), strict=True)
        if found < 1.0
    )


SLIP_WORDS = {
    SlipKind.LATE_START: "late start",
    SlipKind.EARLY_START: "early start",
    SlipKind.SLIP: "slip",
    SlipKind.RECOVERY: "recovery",
    SlipKind.RESTART: "restart",
    SlipKind.SKIP: "skip",
    SlipKind.SKIP_BAR: "bar skipped",
}


def _flow(basis: Basis) -> Scored:
    lines, total = [], 0.0
    for slip in basis.slips:
        cost = SLIP_COSTS[slip.kind]
        lines.append(_line(f"{SLIP_WORDS[slip.kind]} in bar {slip.bar}", f"−{cost:g}"))
        total += cost
    if basis.unplayed_bars_at_end:
        cost = UNFINISHED_COST * basis.unplayed_bars_at_end / basis.bars
        lines.append(
            _line(f"{basis.unplayed_bars_at_end} of {basis.bars} bars unplayed at the end", f"−{cost:.0f}")
        )
        total += cost
    off = abs(basis.tempo_ratio - 1.0) * 100.0 if basis.has_click else 0.0
    if off:
        cost = min(TEMPO_COST_MOST, TEMPO_COST_PER_PERCENT * off)
        lines.append(
            _line(
                f"{basis.played_bpm:.0f} instead of {basis.bpm:g} a minute",
                f"−{cost:.0f}",
            )
        )
        total += cost
    score = max(0.0, 100.0 - total)
    if not lines:
        lines.append(_line("no slip, stop or restart, to the end", "100"))
    lines.append(_line("100 less the costs", f"{score:.0f}"))
    return Scored(score=score, working=tuple(lines))


def _dynamics(basis: Basis) -> Scored:
    """The mean of what the part has: accents, shape, evenness, level."""
    dynamics = basis.dynamics
    if dynamics.level.value is None:
        why = dynamics.level.why_not or NO_TOUCH
        return Scored(score=None, working=(_line("not assessed", why),))
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
    return Scored(score=score, working=tuple(lines))


def _length(basis: Basis) -> Scored:
    ratios = basis.length_ratio
    if not len(ratios):
        why = basis.no_length or "no lengths"
        return Scored(score=None, working=(_line("not assessed", why),))
    credits = credit(np.abs(np.log2(ratios)), full=LENGTH_FULL_OCTAVES, none=LENGTH_NONE_OCTAVES)
    score = 100.0 * float(np.mean(credits))
    return Scored(
        score=score,
        working=(
            _line("full credit from", f"{2**-LENGTH_FULL_OCTAVES:.2f} to {2**LENGTH_FULL_OCTAVES:.2f} of the written length"),
            _line("none from", f"{2**-LENGTH_NONE_OCTAVES:.2f} or {2**LENGTH_NONE_OCTAVES:.1f} times"),
            _line("middle note", f"{float(np.median(ratios)):.2f} of the written length"),
            _line("mean credit", f"{float(np.sum(credits)):.1f} ÷ {len(ratios)} = {score:.0f}"),
        ),
        costs=_lost(basis.length_row, credits),
    )  # fmt: skip
