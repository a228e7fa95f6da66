"""Timing: each written note has the better of its credits against the click and against its player's pulse."""

import numpy as np

from ear.criteria.credits import (
    FactsView,
    concat_losses,
    credit,
    nan_as_zero,
    reasons,
    spread,
    spread_evenly,
    tenths,
)
from ear.criteria.levels import Window
from ear.criteria.score import MISSED, CriterionScore, Timed, WorkingLine, verdict
from ear.criteria.timing import TIMING

EARLY, LATE = verdict("early"), verdict("late")
BESIDE = verdict("beside")
"""In the player's own time, not in the click's."""
FORGIVEN_STEPS = 8
"""In which it is tried how much of a lead or lag to forgive."""


def forgiven(seen: FactsView, *, window: Window, most_ms: float) -> float:
    """Return how much of the constant lead or lag is forgiven, in ms with its sign, to one decimal: up to
    `most_ms`, as much as raises the score.

    It is 0 without a click.

    It is measured against the player's own time; who has lost the click half-way is not nearer to it for
    having his lead taken off.
    """
    if not most_ms or not seen.facts.take.has_click:
        return 0.0
    own = float(np.clip(seen.facts.figures.bias_ms or 0.0, -most_ms, most_ms))
    # The lead is taken off in steps, and the step that earns most is kept: a lead that the player corrected
    # on the way must not cost twice.
    tried = np.round(np.linspace(own, 0.0, FORGIVEN_STEPS + 1), 1)
    click = seen.column(seen.facts.rows.click_ms)
    click = click[~np.isnan(click)]
    credited = credit(np.abs(click[None, :] - tried[:, None]), full=window.full_ms, none=window.none_ms)
    # Of equal ones argmax takes the first, which forgives most.
    earned = np.round(credited.sum(axis=1), 2)
    return float(tried[np.argmax(earned)])


def timing(seen: FactsView, *, window: Window, forgiven_most_ms: float, beside_share: float) -> Timed:
    """Return the Timing score: the mean credit of the written notes.

    Each takes the better of its credit against the click and of a share of its credit against the player's own
    pulse. Without a click the pulse alone counts.

    A lead or lag up to `forgiven_most_ms` is taken off deviations from the click.
    """
    facts = seen.facts
    forgiven_ms = forgiven(seen, window=window, most_ms=forgiven_most_ms)
    click, pulse = seen.column(facts.rows.click_ms) - forgiven_ms, seen.column(facts.rows.pulse_ms)
    by_pulse = nan_as_zero(credit(np.abs(pulse), full=window.full_ms, none=window.none_ms))
    if facts.take.has_click:
        by_click = nan_as_zero(credit(np.abs(click), full=window.full_ms, none=window.none_ms))
        # Steady playing beside the click is worth a share of playing with it; each note takes the better of
        # the two.
        own = np.round(beside_share * by_pulse, 2)
        credits = np.maximum(by_click, own)
        # Half a beat: beyond it, a note is nearer to another beat of the click than to its own.
        half_beat_ms = 30_000.0 / facts.target.bpm
        # Far from the click only the player's own pulse says whether a note came early or late.
        judged = np.where((by_click >= own) | (np.abs(click) < half_beat_ms), click, pulse)
        by_own = own > by_click
        beside = by_own & (np.abs(click) >= half_beat_ms) & (by_pulse >= 1.0)
    else:
        credits, judged = by_pulse, pulse
        by_own = beside = np.zeros(len(pulse), dtype=bool)
    sure = facts.take.in_time
    is_played, rows = seen.is_played, seen.targets
    why = reasons(
        (~is_played, MISSED),
        (beside, BESIDE),
        (judged < 0, EARLY),
        otherwise=LATE,
    )
    credits = np.where(seen.right, 1.0, credits)
    full = int(np.sum(credits >= 1.0))
    none = int(np.sum(is_played & (credits <= 0.0)))
    missed = int(np.sum(~is_played & (credits <= 0.0)))
    lines = [WorkingLine(code="timing_window", values={"full": window.full_ms, "none": window.none_ms})]
    if abs(forgiven_ms) >= 0.5:
        lines.append(WorkingLine(code="timing_forgiven", values={"forgiven": forgiven_ms}))
    lines.append(WorkingLine(code="timing_full", values={"count": full}))
    is_partly = (credits > 0.0) & (credits < 1.0)
    for code, these in (("timing_partly", is_partly & ~by_own), ("timing_beside", is_partly & by_own)):
        if these.any():
            worth = round(float(credits[these].sum()), 2)
            lines.append(WorkingLine(code=code, values={"count": int(these.sum()), "credit": worth}))
    if none:
        lines.append(WorkingLine(code="timing_none", values={"count": none}))
    if missed:
        lines.append(WorkingLine(code="not_played", values={"count": missed}))
    # What stands no better than by chance is no timing, however near to a line some of it falls.
    plain = round(float(credits.sum()), 2)
    credits = np.where(seen.right, 1.0, credits * sure)
    earned = round(float(credits.sum()), 2)
    of = len(rows) + seen.short
    score = tenths(100.0 * earned / of)
    if sure < 1.0:
        lines.append(
            WorkingLine(
                code="timing_by_chance",
                values={"plain": plain, "percent": round(100 * sure), "earned": earned},
            )
        )
    lines.append(WorkingLine(code="mean_credit", values={"earned": earned, "of": of, "score": score}))
    # Notes that a free exercise wants and that do not exist have no row: their share of the loss is spread
    # evenly.
    lost, gone = 100.0 - score, float((1.0 - credits).sum())
    by_note = lost * gone / max(1e-9, gone + seen.short)
    return Timed(
        scored=CriterionScore(
            name=TIMING,
            score=score,
            losses=concat_losses(
                spread(by_note, rows, 1.0 - credits, why), spread_evenly(lost - by_note, rows)
            ),
            lines=tuple(lines),
        ),
        judged_ms=np.round(judged, 2).astype(np.float64),
        within=float(np.mean(credits[is_played] >= 1.0)) if is_played.any() else None,
        forgiven_ms=forgiven_ms,
    )
