"""Which ear notes are told, in what order: each with what its rows cost, each cause once."""

import math
from collections.abc import Collection, Mapping, Sequence

from ear.criteria.table import REPORTED
from ear.criteria.timing import TIMING
from ear.criterion import CriterionKey
from ear.extraction.stored_sentences import StoredSentences
from ear.facts.facts import Facts
from ear.findings.finding import Finding
from ear.findings.kind import Tone
from ear.findings.praise import WellBars
from ear.judging.judgement import CostedFinding, Criterion
from ear.judging.narrowing import without_waived

MIN_COST = 0.4
"""Points of the mark below which a fault is not worth a word."""
COVERED_SHARE = 0.7
"""A finding of Timing whose notes another one has told, to this share, is not told again."""
MIN_PRAISED = 8
"""Notes below which nothing is praised."""


def rank_findings(
    facts: Facts, criteria: Sequence[Criterion], row_costs: Sequence[float], *, waived: Collection[int]
) -> tuple[tuple[CostedFinding, ...], tuple[Finding, ...]]:
    """Return faults and facts, the most costly first, and praise. Rows in `waived` are not reported."""
    findings = [
        narrowed
        for finding in facts.findings
        if (narrowed := without_waived(finding, waived, facts.rows)) is not None
    ]
    by_criterion = {c.name: _of_rows(c, len(row_costs)) for c in criteria}
    heard = [
        CostedFinding(finding=f, cost=_cost(f, by_criterion, row_costs))
        for f in findings
        if f.kind.tone is not Tone.PRAISE
    ]
    faults = [t for t in heard if t.cost >= MIN_COST or _is_always_shown(t.finding)]
    faults.sort(key=lambda t: (-t.cost, t.finding.bars or (0, 0), t.finding.code))
    progress = [f for f in findings if f.kind.tone is Tone.PRAISE and not isinstance(f, StoredSentences)]
    return tuple(_each_cause_once(faults)), (*_went_well(facts, criteria, row_costs), *progress)


def _is_always_shown(finding: Finding) -> bool:
    # What the first release has told stays told.
    return finding.kind.tone is Tone.FACT or isinstance(finding, StoredSentences)


def _of_rows(criterion: Criterion, rows: int) -> list[float]:
    """Points of the total that each row has cost in a criterion."""
    costs = [0.0] * rows
    rate = criterion.weight / 100.0
    for row, points in zip(criterion.losses.row, criterion.losses.points, strict=True):
        costs[row] += points * rate
    return costs


def _cost(finding: Finding, by_criterion: Mapping[str, list[float]], row_costs: Sequence[float]) -> float:
    kind = finding.kind
    if kind.takes_all:
        return math.fsum(map(row_costs.__getitem__, finding.rows))
    if kind.criterion is None or kind.criterion not in by_criterion:
        return 0.0
    return math.fsum(map(by_criterion[kind.criterion].__getitem__, finding.rows))


def _each_cause_once(faults: Sequence[CostedFinding]) -> list[CostedFinding]:
    """Drop what dearer findings of the same criterion have told of the same notes."""
    ranked_rows: dict[CriterionKey | None, set[int]] = {}
    kept: list[CostedFinding] = []
    # “Unsteady” and the like hold for the whole take: they are dropped if nearer causes already explain
    # most of their notes.
    nearer = [t for t in faults if _is_timing(t) and not t.finding.kind.is_overall]
    explained = {row for t in nearer if t.cost >= MIN_COST for row in t.finding.rows}
    for fault in faults:
        kind, rows = fault.finding.kind, set(fault.finding.rows)
        if kind.is_overall and len(rows & explained) > len(rows) / 2:
            continue
        # Faults come dearest first, so a later one that covers the same notes tells the student nothing
        # new.
        before = ranked_rows.setdefault(kind.criterion, set())
        if (
            _is_timing(fault)
            and not kind.is_overall
            and rows
            and len(rows & before) >= COVERED_SHARE * len(rows)
        ):
            continue
        if not kind.is_overall:
            before |= rows
        kept.append(fault)
    return kept


def _is_timing(costed: CostedFinding) -> bool:
    return costed.finding.kind.criterion == TIMING


def _went_well(facts: Facts, criteria: Sequence[Criterion], row_costs: Sequence[float]) -> list[Finding]:
    """What lost nothing: nothing else is praised."""
    if facts.counts.matched + facts.counts.wrong_pitch < MIN_PRAISED:
        return []
    lost = {c.name: set(c.losses.row) for c in criteria if c.weight}
    praise = [each for kind in REPORTED if kind.key in lost for each in kind.praise(facts, lost[kind.key])]
    return [*praise, *_best_bars(facts, row_costs)]


def _best_bars(facts: Facts, row_costs: Sequence[float]) -> list[Finding]:
    """The longest run of bars in which no note lost anything, if others did."""
    at = facts.rows.bar
    if not at:
        return []
    faulty = {at[i] for i in range(facts.target.notes) if row_costs[i] > 0.0}
    # A note too many stands in the bar of the note beside it.
    faulty |= {at[near] for n, near in enumerate(facts.rows.near) if near is not None and row_costs[n] > 0.0}
    unplaced = any(
        row_costs[n] > 0.0 and facts.rows.near[n] is None for n in range(facts.target.notes, len(row_costs))
    )
    played = set(at)
    run: list[int] = []
    best: list[int] = []
    for bar in range(1, facts.target.bars + 1):
        run = [] if bar in faulty or bar not in played else [*run, bar]
        best = run if len(run) > len(best) else best
    if not faulty or unplaced or not 2 <= len(best) < facts.target.bars:
        return []
    rows = tuple(i for i, bar in enumerate(at) if best[0] <= bar <= best[-1])
    return [WellBars(rows=rows, bars=(best[0], best[-1]))]
