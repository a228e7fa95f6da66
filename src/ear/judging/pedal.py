"""What the sustain pedal scores: the mean credit of the written moves."""

import numpy as np

from ear.criteria import CriterionName
from ear.judging.credits import FactsView, credit, reasons, spread, tenths
from ear.judging.judgement import CriterionScore, LossReason, WorkingLine
from ear.measuring.pedal import PedalOutcome

EARLY_FULL_MS, EARLY_NONE_MS = 100.0, 300.0
LATE_FULL_MS, LATE_NONE_MS = 200.0, 450.0
"""In full up to the first, nothing from the second on. After the sound there is more room than before it: a
pedal that comes late blurs for a moment, one that comes early leaves a hole."""


def pedal(seen: FactsView) -> CriterionScore:
    """Return the Pedal score.

    Early or late moves lose in part, missing moves in full. Moves at notes that do not count are left out;
    those at notes that count as right are right.
    """
    facts = seen.facts
    name = CriterionName.PEDAL
    if not facts.take.has_pedal:
        return CriterionScore(name=name, score=None, lines=(WorkingLine(code="no_pedal"),))
    moves = [one for one in facts.pedal if seen.counted[one.row]]
    if not moves:
        return CriterionScore(name=name, score=None, lines=(WorkingLine(code="pedal_not_counted"),))
    rows = np.array([one.row for one in moves], dtype=np.int64)
    off = np.array([np.nan if one.deviation_ms is None else one.deviation_ms for one in moves])
    early = credit(-off, full=EARLY_FULL_MS, none=EARLY_NONE_MS)
    late = credit(off, full=LATE_FULL_MS, none=LATE_NONE_MS)
    credits = np.where(np.isnan(off), 0.0, np.minimum(early, late))
    credits = np.where(seen.marked_right[rows], 1.0, credits)
    is_blurred = np.array([one.outcome is PedalOutcome.BLURRED for one in moves])
    is_dry = np.array([one.outcome is PedalOutcome.DRY for one in moves])
    why = reasons(
        (is_blurred, LossReason.BLURRED),
        (is_dry, LossReason.DRY),
        (off < 0, LossReason.PEDAL_EARLY),
        otherwise=LossReason.PEDAL_LATE,
    )
    earned = round(float(credits.sum()), 2)
    score = tenths(100.0 * earned / len(moves))
    lines = [
        WorkingLine(code="pedal_window", values={
            "early": int(EARLY_FULL_MS), "late": int(LATE_FULL_MS),
            "early_none": int(EARLY_NONE_MS), "late_none": int(LATE_NONE_MS),
        }),
        WorkingLine(code="pedal_in_time", values={"count": int((credits == 1.0).sum())}),
    ]  # fmt: skip
    partly = (credits > 0.0) & (credits < 1.0)
    if partly.any():
        worth = round(float(credits[partly].sum()), 2)
        lines.append(WorkingLine(code="pedal_partly", values={"count": int(partly.sum()), "credit": worth}))
    for code, flags in (("pedal_blurred", is_blurred), ("pedal_dry", is_dry)):
        if flags.any():
            lines.append(WorkingLine(code=code, values={"count": int(flags.sum())}))
    lines.append(
        WorkingLine(code="pedal_credit", values={"earned": earned, "of": len(moves), "score": score})
    )
    return CriterionScore(
        name=name, score=score, losses=spread(100.0 - score, rows, 1.0 - credits, why), lines=tuple(lines)
    )
