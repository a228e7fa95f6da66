"""Run the rules, tell each cause once, and rank what was heard."""

from collections.abc import Sequence
from dataclasses import replace

from ear.findings import fairness_rules, note_rules, praise_rules, time_rules
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.practice import practice_for
from ear.findings.standing import Standing
from ear.marking.marks import Mark
from ear.marking.rubric import CriterionName
from ear.matching.outcome import Match
from ear.measuring.measures import Measures
from ear.notes import STANDARD_KIT, KitMap, Part, Take

COST_LEAST = 0.4
"""Points of the mark below which a fault is not worth a word."""
FACTS = frozenset(
    {
        "transposed", "looks_quantised", "same_recording", "lead", "lag", "own_tempo", "foreign", "empty",
        "lane_early", "lane_late", "swing_straight", "swing_deep", "swung", "place_early", "place_late", "hand_late",
    }
)  # fmt: skip
"""Said whatever they cost."""
COVERED_SHARE = 0.7
"""A finding whose notes another one has told, to this share, is not told again."""
OVERALL_TIMING = frozenset({"unsteady"})
"""Told only if no nearer cause has been found for most of its cost."""


def listen(
    part: Part,
    take: Take,
    match: Match,
    measures: Measures,
    mark: Mark,
    *,
    kit: KitMap = STANDARD_KIT,
    before: Standing | None = None,
    others: Sequence[tuple[str, Take]] = (),
) -> tuple[Finding, ...]:
    """Ear notes, the most costly first, praise last.

    `before` is how the player's last take stood; `others` are takes of others, with whose they are.
    """
    context = Context(
        part=part, take=take, match=match, measures=measures, mark=mark, kit=kit, before=before,
        others=tuple(others),
    )  # fmt: skip
    rules = (*note_rules.RULES, *time_rules.RULES, *fairness_rules.RULES, *praise_rules.RULES)
    heard = [f for rule in rules for f in rule(context)]
    faults = [f for f in heard if not f.is_praise and (f.cost >= COST_LEAST or f.kind in FACTS)]
    faults.sort(key=lambda f: (-f.cost, f.first_bar or 0, f.kind))
    kept = _each_cause_once(faults)
    untimely = any(f.criterion is CriterionName.TIMING for f in kept)
    praise = [f for f in heard if f.is_praise and not (untimely and f.kind == "well_in_time")]
    bars = len(part.bars)
    return (*(replace(f, practice=practice_for(f, last_bar=bars)) for f in kept), *praise)


def _each_cause_once(faults: list[Finding]) -> list[Finding]:
    """Drop what dearer findings of the same criterion have told of the same notes."""
    told: dict[str, set[int]] = {}
    kept: list[Finding] = []
    specific_cost = sum(f.cost for f in faults if f.criterion == "timing" and f.kind not in OVERALL_TIMING)
    for finding in faults:
        if finding.kind in OVERALL_TIMING and specific_cost > finding.cost / 2:
            continue
        notes = set(finding.targets)
        before = told.setdefault(finding.criterion or "", set())
        if finding.criterion == "timing" and notes and len(notes & before) >= COVERED_SHARE * len(notes):
            continue
        before |= notes
        kept.append(finding)
    return kept
