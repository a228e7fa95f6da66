"""Flow: what slips cost, and what is left unplayed at the end."""

import math

import numpy as np

from ear.criteria.credits import FactsView, all_for, concat_losses, spread, tenths
from ear.criteria.flow import FLOW
from ear.criteria.score import MISSED, CriterionScore, LossReason, WorkingLine, verdict
from ear.matching.outcome import SlipKind

SLIP = verdict("slip")
"""The first note after a slip, a skip or a restart."""
EMPTY, THIN, FULL = LossReason("bars_empty"), LossReason("bars_thin"), LossReason("bars_full")
NOT_REPEATED = LossReason("not_repeated")
"""Of a free take, which loses them as a whole."""
SLIP_COSTS = {
    SlipKind.LATE_START: 12.0,
    SlipKind.EARLY_START: 12.0,
    SlipKind.SLIP: 22.0,
    SlipKind.RECOVERY: 5.0,
    SlipKind.RESTART: 30.0,
    SlipKind.PUT_RIGHT: 14.0,
    SlipKind.LAST_NOTE_LATE: 16.0,
    SlipKind.SKIP: 26.0,
    SlipKind.SKIP_BAR: 26.0,
    SlipKind.REPEAT_LEFT_OUT: 15.0,
    SlipKind.REPEAT_ADDED: 15.0,
}
"""Points of Flow in a part of `PRICED_BARS`. A recovery is cheap: finding back to the click is a skill."""
PRICED_BARS = 8
"""In a longer part one break costs less, in a shorter one more: by the square root, so that it is heard in either."""
SLIP_FROM_S, SLIP_FULL_S = 0.1, 0.4
"""A break costs nothing at the size at which it is first told from a late note, and its whole price from here on: a listener
hears that the music stopped, and hardly for how long."""
ATTEMPT_SHARE = 0.35
"""What each further attempt adds to the price of a new start."""
UNFINISHED_COST = 100.0
"""Points of Flow for the whole part left unplayed at the end; in proportion for less."""


def flow(seen: FactsView) -> CriterionScore:
    """Return the Flow score: 100 less what slips cost, each by its size, and less what is left unplayed at the
    end.
    """
    facts = seen.facts
    lines, parts = [], []
    price = math.sqrt(PRICED_BARS / facts.target.bars)
    linked = seen.targets[seen.is_played]
    for slip in facts.slips:
        seconds = abs(slip.beats) * 60.0 / facts.target.bpm
        size = min(1.0, max(0.0, (seconds - SLIP_FROM_S) / (SLIP_FULL_S - SLIP_FROM_S)))
        attempts = 1.0 + ATTEMPT_SHARE * max(0, slip.attempts - 2)
        cost = tenths(SLIP_COSTS[slip.kind] * price * attempts * size)
        row = slip.row if slip.row is not None else int(linked[0])
        if not cost or not seen.counted[row] or seen.marked_right[row]:
            continue
        lines.append(WorkingLine(code=slip.kind.value, values={"bar": slip.bar, "cost": cost}))
        parts.append((cost, np.array([row]), SLIP))
    end = seen.targets[(seen.targets > linked[-1]) & ~seen.right] if len(linked) else linked
    if facts.unplayed_bars_at_end and len(end):
        cost = tenths(UNFINISHED_COST * facts.unplayed_bars_at_end / facts.target.bars)
        values = {"count": facts.unplayed_bars_at_end, "of": facts.target.bars, "cost": cost}
        lines.append(WorkingLine(code="unfinished", values=values))
        parts.append((cost, end, MISSED))
    total = tenths(math.fsum(cost for cost, _, _ in parts))
    score = max(0.0, tenths(100.0 - total))
    if not lines:
        lines.append(WorkingLine(code="flow_whole"))
    lines.append(WorkingLine(code="flow_sum", values={"cost": total, "score": score}))
    share = (100.0 - score) / total if total else 0.0
    return CriterionScore(
        name=FLOW,
        score=score,
        losses=concat_losses(
            *(spread(cost * share, rows, np.ones(len(rows)), all_for(why, rows)) for cost, rows, why in parts)
        ),
        lines=tuple(lines),
    )


def free_flow(seen: FactsView) -> CriterionScore:
    """Return the Flow score of a free take: the share of bars with as many notes as asked for, halved by pairs
    that do not repeat.
    """
    known = seen.facts.free
    assert known is not None
    bars = len(known.notes_a_bar)
    faulty = {EMPTY: known.empty_bars, THIN: known.thin_bars, FULL: known.full_bars}
    kept = bars - sum(map(len, faulty.values()))
    score = tenths(100.0 * kept / bars)
    by_bars = 100.0 - score
    lines = [WorkingLine(code="free_bars", values={"right": kept, "of": bars, "score": score})]
    if known.repeated is not None:
        score = tenths(score * (0.5 + 0.5 * known.repeated))
        percent = round(100 * known.repeated)
        lines.append(WorkingLine(code="free_repeated", values={"percent": percent, "score": score}))
    lost = {why: by_bars * len(those) / (bars - kept) for why, those in faulty.items() if those}
    lost[NOT_REPEATED] = 100.0 - by_bars - score
    each = np.ones(len(seen.targets))
    return CriterionScore(
        name=FLOW,
        score=score,
        losses=concat_losses(
            *(spread(points, seen.targets, each, all_for(why, seen.targets)) for why, points in lost.items())
        ),
        lines=tuple(lines),
    )
