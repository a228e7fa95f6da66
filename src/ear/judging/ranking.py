"""Which ear notes are told, in what order: each lost point with one of them, each cause once.

What a take lost is taken apart into atoms, each of one row, criterion and reason. Ear notes claim them one after the
other: first those that are nearest to the cause (a break, a set-up), then always the one that explains most of what is
left, and at last those that hold for the whole take. So nothing is told twice, and what nobody claims is the rest.
"""

import math
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from ear.criteria.levels import Window
from ear.criteria.table import REPORTED
from ear.criteria.timing import TIMING
from ear.extraction.stored_sentences import StoredSentences
from ear.facts.facts import Facts
from ear.findings.finding import Finding
from ear.findings.kind import Claim, Tone
from ear.findings.praise import WellBars
from ear.judging.judgement import CostedFinding, Criterion, Rest
from ear.judging.narrowing import without_waived

MIN_COST = 0.4
"""Points of the mark below which a fault is not worth a word."""
COVERED_SHARE = 0.7
"""A finding of Timing whose notes another one has told, to this share, is not told again."""
MIN_PRAISED = 8
"""Notes below which nothing is praised."""
Atom = tuple[int, str, str]
"""A row, the criterion in which it lost, and the reason."""


@dataclass(frozen=True, kw_only=True)
class Ranked:
    """Faults and facts, the most costly first, with what of the loss none of them explains; and praise."""

    faults: tuple[CostedFinding, ...]
    rest: Rest
    praise: tuple[Finding, ...]


def lost_by(criteria: Sequence[Criterion], factors: Mapping[str, float]) -> dict[Atom, float]:
    """Return what was lost, in points of the total, by row, criterion and reason. A criterion in `factors` has cost so
    many times its weight: it bounds the whole."""
    atoms: dict[Atom, float] = defaultdict(float)
    for criterion in criteria:
        rate = criterion.weight / 100.0 * factors.get(criterion.name, 1.0)
        losses = criterion.losses
        for row, points, why in zip(losses.row, losses.points, losses.why, strict=True):
            atoms[row, criterion.name, why] += points * rate
    return dict(atoms)


def rank_findings(
    facts: Facts,
    criteria: Sequence[Criterion],
    atoms: Mapping[Atom, float],
    *,
    lost: float,
    window: Window,
    waived: Collection[int],
) -> Ranked:
    """Return what is told of a take that `lost` so many points in all. Rows in `waived` are not reported."""
    findings = [
        narrowed
        for finding in facts.findings
        if (narrowed := without_waived(finding, waived, facts.rows)) is not None
    ]
    about = [f for f in findings if f.kind.tone is not Tone.PRAISE and not f.is_within(window.full_ms)]
    costed, unclaimed = _allocated(about, atoms)
    costed.sort(key=lambda t: (-t.cost, t.finding.bars or (0, 0), t.finding.code))
    faults = _each_cause_once(costed)
    rows = {row for row, _, _ in unclaimed}
    rest = max(0.0, lost - math.fsum(t.cost for t in faults))
    progress = [f for f in findings if f.kind.tone is Tone.PRAISE and not isinstance(f, StoredSentences)]
    by_row: dict[int, float] = defaultdict(float)
    for (row, _, _), points in atoms.items():
        by_row[row] += points
    return Ranked(
        faults=tuple(faults),
        rest=Rest(cost=round(rest, 3), notes=len(rows)),
        praise=(*_went_well(facts, criteria, by_row), *progress),
    )


def _allocated(
    findings: Sequence[Finding], atoms: Mapping[Atom, float]
) -> tuple[list[CostedFinding], dict[Atom, float]]:
    """Share what was lost among findings, and return what is left; findings that explain too little are left out."""
    left = dict(atoms)
    by_row: dict[int, list[Atom]] = defaultdict(list)
    for atom in atoms:
        by_row[atom[0]].append(atom)
    kept: list[CostedFinding] = []
    first = [f for f in findings if f.kind.claims_first]
    overall = [f for f in findings if f.kind.is_overall]
    others = [f for f in findings if not f.kind.claims_first and not f.kind.is_overall]
    for waiting in (first, others, overall):
        claimed = [(finding, _claimed(finding.claims(), by_row)) for finding in waiting]
        while claimed:
            costs = [math.fsum(left[atom] for atom in own if atom in left) for _, own in claimed]
            best = max(range(len(claimed)), key=costs.__getitem__)
            finding, own = claimed.pop(best)
            if costs[best] < MIN_COST and not _is_always_shown(finding):
                continue
            kept.append(CostedFinding(finding=finding, cost=costs[best]))
            for atom in own:
                left.pop(atom, None)
    return kept, left


def _claimed(claims: Iterable[Claim], by_row: Mapping[int, list[Atom]]) -> list[Atom]:
    atoms = {
        atom
        for claim in claims
        for row in (by_row if claim.rows is None else claim.rows)
        for atom in by_row.get(row, ())
        if claim.criterion in (None, atom[1]) and (not claim.why or atom[2] in claim.why)
    }
    return sorted(atoms)


def _is_always_shown(finding: Finding) -> bool:
    # What the first release has told stays told.
    return finding.kind.tone is Tone.FACT or isinstance(finding, StoredSentences)


def _each_cause_once(faults: Sequence[CostedFinding]) -> list[CostedFinding]:
    """Drop what costs next to nothing where dearer findings of Timing have told of the same notes."""
    kept: list[CostedFinding] = []
    before: set[int] = set()
    for fault in faults:
        if fault.finding.kind.criterion == TIMING:
            rows = set(fault.finding.rows)
            if fault.cost < MIN_COST and rows and len(rows & before) >= COVERED_SHARE * len(rows):
                continue
            if not fault.finding.kind.is_overall:
                before |= rows
        kept.append(fault)
    return kept


def _went_well(facts: Facts, criteria: Sequence[Criterion], row_costs: Mapping[int, float]) -> list[Finding]:
    """What lost nothing: nothing else is praised."""
    if facts.counts.matched + facts.counts.wrong_pitch < MIN_PRAISED:
        return []
    lost = {c.name: set(c.losses.row) for c in criteria if c.weight}
    praise = [each for kind in REPORTED if kind.key in lost for each in kind.praise(facts, lost[kind.key])]
    return [*praise, *_best_bars(facts, row_costs)]


def _best_bars(facts: Facts, row_costs: Mapping[int, float]) -> list[Finding]:
    """The longest run of bars in which no note lost anything, if others did."""
    at = facts.rows.bar
    if not at:
        return []
    faulty = {at[i] for i in range(facts.target.notes) if row_costs.get(i, 0.0) > 0.0}
    # A note too many stands in the bar of the note beside it.
    faulty |= {
        at[near] for n, near in enumerate(facts.rows.near) if near is not None and row_costs.get(n, 0.0) > 0.0
    }
    unplaced = any(
        row_costs.get(n, 0.0) > 0.0 and facts.rows.near[n] is None
        for n in range(facts.target.notes, len(facts.rows))
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
