"""What a take of a free exercise scores: notes among those allowed, bars filled as asked.

Timing is scored as of any take (`timing`): against the lines of the grid.
"""

import numpy as np

from ear.criteria import CriterionName
from ear.free.realised import FreeFacts
from ear.judging.credits import NUMBER, FactsView, concat_losses, spread, spread_evenly, tenths
from ear.judging.judgement import CriterionScore, LossReason, WorkingLine


def _facts(seen: FactsView) -> FreeFacts:
    assert seen.facts.free is not None
    return seen.facts.free


def free_notes(seen: FactsView) -> CriterionScore:
    """Return the Notes score of a free take: the share of allowed notes among those played, or among the number
    asked for if that is more.
    """
    rows = seen.targets
    is_wrong = ~seen.is_matched & ~seen.right
    right = len(rows) - int(is_wrong.sum())
    wrong, short = len(rows) - right, seen.short
    of = len(rows) + short
    score = tenths(100.0 * right / of)
    lost = 100.0 - score
    lines = [WorkingLine(code="free_set", values={"right": right, "of": of, "score": score})]
    if short:
        lines.insert(0, WorkingLine(code="free_short", values={"count": short}))
    return CriterionScore(
        name=CriterionName.NOTES,
        score=score,
        losses=concat_losses(
            spread(
                lost * wrong / max(1, wrong + short),
                rows,
                is_wrong.astype(float),
                np.full(len(rows), NUMBER[LossReason.WRONG]),
            ),
            spread_evenly(lost * short / max(1, wrong + short), rows),
        ),
        lines=tuple(lines),
    )


def free_flow(seen: FactsView) -> CriterionScore:
    """Return the Flow score of a free take: the share of bars with as many notes as asked for, halved by pairs
    that do not repeat.
    """
    known = _facts(seen)
    kept, bars = known.bars_kept, len(known.notes_a_bar)
    score = tenths(100.0 * kept / bars)
    lines = [WorkingLine(code="free_bars", values={"right": kept, "of": bars, "score": score})]
    if known.repeated is not None:
        score = tenths(score * (0.5 + 0.5 * known.repeated))
        percent = round(100 * known.repeated)
        lines.append(WorkingLine(code="free_repeated", values={"percent": percent, "score": score}))
    return CriterionScore(
        name=CriterionName.FLOW,
        score=score,
        losses=spread_evenly(100.0 - score, seen.targets),
        lines=tuple(lines),
    )
