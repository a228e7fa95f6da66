"""Facts and rules to a judgement: a pure function, in two steps.

`score` sees facts by some rules; what it gives is stored, and the same code version gives it again.
`conclude` puts a teacher's figures over scores, weighs, bounds, and says what every row and every ear note
cost. What is stored of an earlier version is concluded as it stands, so a mark never moves by itself.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ear.criteria.credits import FactsView, tenths
from ear.criteria.kind import ScoringInput
from ear.criteria.levels import Level
from ear.criteria.score import ABANDONED, IN_TIME, NOT_COUNTED, CriterionScore, Losses, Verdict
from ear.criteria.table import CRITERIA, OF_WHOLE, SPEAKS_FIRST, VERDICT_OF, score_criterion
from ear.criteria.timing.scoring import timing
from ear.criterion import CriterionKey
from ear.errors import FormatError
from ear.facts.facts import Facts
from ear.judging.judgement import LIKENESS, VERSION, Ceiling, Criterion, Judgement, Scores, TeacherScore
from ear.judging.ranking import Atom, lost_by, rank_findings
from ear.judging.rubric import Rubric
from ear.judging.settings import NoteOverride
from ear.matching.outcome import Outcome
from ear.measuring.computer_offset import is_computer_offset
from ear.note_place import NotePlace, PlaceKind


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """By what a take is judged. `level` holds where the rubric names none; `overrides` are a teacher's, of
    notes (t or k and a number) and bars (b and a number)."""

    rubric: Rubric
    level: Level
    overrides: Mapping[NotePlace, NoteOverride] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Changes:
    """What a teacher says instead or besides: by criterion, how much help was given, and how many days begun after
    the due date are to cost."""

    teacher_scores: Mapping[str, TeacherScore] = field(default_factory=dict)
    help_step: int | None = None
    late_days: int = 0


UNCHANGED = Changes()


def judge(facts: Facts, rules: Rules, changes: Changes = UNCHANGED) -> Judgement:
    """Return what a take is worth by some rules, with a teacher's changes."""
    return conclude(facts, score(facts, rules), rules.rubric, changes)


def score(facts: Facts, rules: Rules) -> Scores:
    """Return the scores of what was measured, as the rules see it.

    A take with nothing of the part scores 0 throughout.
    """
    rubric, level = rules.rubric, rules.rubric.level or rules.level
    seen = _seen(facts, rules.overrides)
    beside = level.beside_share if rubric.beside_share is None else rubric.beside_share
    floor = level.floor_percent if rubric.floor_percent is None else rubric.floor_percent
    timed = None
    if not facts.is_nothing and len(seen.targets):
        # Drawn even where the rubric gives it no weight.
        timed = timing(
            seen, level=level, forgiven_most_ms=_forgiven_most_ms(facts, rubric), beside_share=beside
        )
    judged: list[float | None] = [None] * len(facts.rows)
    if timed is not None:
        for row, ms in zip(seen.targets.tolist(), timed.judged_ms.tolist(), strict=True):
            judged[row] = None if ms != ms else ms

    # Timing is measured even without a weight: verdicts, colours and the Drift strip depend on it.
    setting = (
        None
        if timed is None
        else ScoringInput(seen=seen, timed=timed, floor_percent=floor, other_key_share=rubric.other_key_share)
    )
    return Scores(
        version=VERSION,
        level=level.key,
        window=timed.window if timed else level.window,
        forgiven_ms=timed.forgiven_ms if timed else 0.0,
        criteria=tuple(
            score_criterion(name, setting, seen=seen)
            for name, _ in rubric.weights
            if CRITERIA[name].is_asked(facts)
        ),
        judged_ms=tuple(judged),
        within_window=timed.within if timed else None,
        likeness=facts.take.likeness,
        waived=tuple(np.flatnonzero(seen.marked_right | ~seen.counted).tolist()),
    )


def _forgiven_most_ms(facts: Facts, rubric: Rubric) -> float:
    """Return how much of a constant offset is forgiven: what the rubric says, and all of one that the computer made."""
    bias_ms = facts.figures.bias_ms
    if bias_ms is not None and is_computer_offset(
        bias_ms, facts.figures.spread_ms, notes=facts.counts.matched
    ):
        return max(rubric.forgiven_bias_ms, abs(bias_ms))
    return rubric.forgiven_bias_ms


def _seen(facts: Facts, overrides: Mapping[NotePlace, NoteOverride]) -> FactsView:
    counted, right = np.ones(len(facts.rows), dtype=bool), np.zeros(len(facts.rows), dtype=bool)
    targets = facts.target.notes
    row_of_take = {take: n for n, take in enumerate(facts.rows.take) if take is not None} if overrides else {}
    for place, override in overrides.items():
        match place.kind:
            case PlaceKind.TARGET:
                rows = [place.number] if place.number < targets else []
            case PlaceKind.PLAYED:
                rows = [row_of_take[place.number]] if place.number in row_of_take else []
            case PlaceKind.BAR:
                rows = [i for i, bar in enumerate(facts.rows.bar) if bar == place.number]
        if override is NoteOverride.RIGHT:
            right[rows] = True
        else:
            counted[rows] = False
    return FactsView(facts=facts, counted=counted, marked_right=right)


def conclude(facts: Facts, scores: Scores, rubric: Rubric, changes: Changes = UNCHANGED) -> Judgement:
    """Conclude scores and a teacher's changes to a mark, and to what every row cost.

    Raises FormatError for scores of other facts than these.
    """
    _must_fit(facts, scores)
    criteria = _weighed(scores, rubric, changes.teacher_scores)
    # Sums are exact (fsum) and rounded to what is printed, so that a reader can add up the working.
    total = round(math.fsum(c.points for c in criteria), 3)
    ceiling = _ceiling(scores, criteria, total) if rubric.has_ceilings else None
    capped = min(total, ceiling.most) if ceiling else total
    step = changes.help_step
    cost = rubric.help[step].cost if step is not None and 0 <= step < len(rubric.help) else 0.0
    late = rubric.cost_of_late(changes.late_days)
    final = round(max(0.0, capped - cost - late), 3)
    atoms = lost_by(criteria, _ceiling_factors(criteria, total, capped, ceiling))
    verdicts = _verdicts(facts, criteria)
    ranked = rank_findings(
        facts, criteria, atoms, lost=100.0 - capped, window=scores.window, waived=frozenset(scores.waived)
    )
    return Judgement(
        scores=scores,
        criteria=criteria,
        sum=total,
        ceiling=ceiling if ceiling and ceiling.most < total else None,
        help_cost=cost,
        late_cost=late,
        total=final,
        points=rubric.points(final),
        out_of=rubric.out_of,
        band=rubric.band(final),
        verdicts=verdicts,
        row_costs=_row_costs(atoms, len(facts.rows)),
        faults=ranked.faults,
        rest=ranked.rest,
        praise=ranked.praise,
    )


def _must_fit(facts: Facts, scores: Scores) -> None:
    """Both are stored, and each can be read by itself: that they are of one take is asked here."""
    count = len(facts.rows)
    in_range = all(0 <= row < count for scored in scores.criteria for row in scored.losses.row)
    if len(scores.judged_ms) != count or not in_range:
        raise FormatError(expected=f"scores of {count} rows", actual=f"scores of {len(scores.judged_ms)}")


def _weighed(
    scores: Scores, rubric: Rubric, teacher_scores: Mapping[str, TeacherScore]
) -> tuple[Criterion, ...]:
    """Criteria with the weights that they have: one without a score gives its weight to the others."""
    set_weights = dict(rubric.weights)
    criteria_weighed = [
        _with_teacher_score(c, set_weights.get(c.name, 0.0), teacher_scores.get(c.name))
        for c in scores.criteria
    ]
    for criterion in rubric.teacher_criteria:
        teacher_score = teacher_scores.get(criterion.key)
        criteria_weighed.append(
            Criterion(
                name=criterion.key,
                score=tenths(teacher_score.score)
                if teacher_score and teacher_score.score is not None
                else None,
                machine=None,
                weight=0,
                set_weight=criterion.weight,
                points=0.0,
                teacher_score=teacher_score,
                teacher_criterion=criterion,
            )
        )
    wanted = [c.set_weight if c.score is not None else 0.0 for c in criteria_weighed]
    whole = math.fsum(wanted)
    if scores.is_first_release and whole:
        exact = [100.0 * weight / whole for weight in wanted]
        return tuple(
            replace(c, weight=round(weight), points=(c.score or 0.0) * weight / 100.0)
            for c, weight in zip(criteria_weighed, exact, strict=True)
        )
    return tuple(
        replace(c, weight=share, points=round((c.score or 0.0) * share / 100.0, 3))
        for c, share in zip(criteria_weighed, whole_shares(wanted), strict=True)
    )


def _with_teacher_score(
    scored: CriterionScore, set_weight: float, teacher_score: TeacherScore | None
) -> Criterion:
    """A measured criterion with the teacher's score, if there is one: what rows lost follows it."""
    score, losses = scored.score, scored.losses
    if teacher_score is not None:
        score = None if teacher_score.score is None else tenths(teacher_score.score)
        lost, machine = 100.0 - (100.0 if score is None else score), math.fsum(losses.points)
        rate = lost / machine if machine else 0.0
        losses = replace(losses, points=tuple(p * rate for p in losses.points)) if rate else Losses()
    return Criterion(
        name=scored.name,
        score=score,
        machine=scored.score,
        weight=0,
        set_weight=set_weight,
        points=0.0,
        lines=scored.lines,
        losses=losses,
        teacher_score=teacher_score,
    )


def whole_shares(weights: Sequence[float]) -> list[int]:
    """Return weights as whole per cents that add up to 100, by the largest remainders; no weight above 0
    becomes 0.

    All 0 where nothing weighs.
    """
    whole = math.fsum(weights)
    if not whole:
        return [0] * len(weights)
    exact = [100.0 * weight / whole for weight in weights]
    shares = [max(1, math.floor(e + 1e-9)) if e else 0 for e in exact]
    # Largest remainders first. The loop below takes back what `max(1, …)` gave too much, from the largest
    # share.
    order = sorted(range(len(exact)), key=lambda k: (shares[k] - exact[k], k))
    for k in order[: max(0, 100 - sum(shares))]:
        shares[k] += 1
    while sum(shares) > 100:
        shares[shares.index(max(shares))] -= 1
    return shares


def _ceiling(scores: Scores, criteria: Sequence[Criterion], total: float) -> Ceiling | None:
    """The lowest of the bounds."""
    if scores.is_first_release:
        return None
    # A take's foundations limit the whole: perfect dynamics cannot rescue wrong notes.
    bounds = []
    for criterion in criteria:
        kind = CRITERIA.get(CriterionKey(criterion.name))
        if kind is not None and kind.ceiling is not None and criterion.weight and criterion.score is not None:
            most = round(kind.ceiling.least + kind.ceiling.rate * criterion.score, 3)
            bounds.append(Ceiling(of=kind.key, by=criterion.score, most=most))
    # A take that is hardly the exercise has hardly a mark, down to 0 where it is of something else: unless a
    # teacher has heard it and says otherwise.
    if scores.likeness < 1.0 and not any(c.is_changed for c in criteria):
        percent = tenths(100.0 * scores.likeness)
        bounds.append(Ceiling(of=LIKENESS, by=percent, most=percent))
    return min(bounds, key=lambda bound: bound.most, default=None)


def _ceiling_factors(
    criteria: Sequence[Criterion], total: float, capped: float, ceiling: Ceiling | None
) -> dict[str, float]:
    """How many times its weight a criterion has cost: one that bounds the whole has cost what the bound took, too; where
    likeness does, all have, in proportion."""
    lost = {c.name: math.fsum(c.losses.points) * c.weight / 100.0 for c in criteria}
    bound_by = [ceiling.of] if ceiling and ceiling.of in lost else list(lost)
    whole = math.fsum(lost[name] for name in bound_by)
    if ceiling is None or whole <= 0.0 or capped >= total:
        return {}
    return dict.fromkeys(bound_by, 1.0 + (total - capped) / whole)


def _row_costs(atoms: Mapping[Atom, float], rows: int) -> tuple[float, ...]:
    costs = [0.0] * rows
    for (row, _, _), points in atoms.items():
        costs[row] += points
    return tuple(costs)


def _verdicts(facts: Facts, criteria: Sequence[Criterion]) -> tuple[Verdict, ...]:
    right, otherwise, matched = IN_TIME, NOT_COUNTED, Outcome.MATCHED
    verdicts = [right if outcome is matched else otherwise for outcome in facts.rows.outcome]
    for ornament in facts.rows.ornaments:
        if ornament.is_written:
            verdicts[ornament.row] = right
    for n in facts.rows.abandoned:
        verdicts[n] = ABANDONED
    by_name = {c.name: c for c in criteria if c.weight}
    # Written in reverse, so that the criterion that speaks first has the last word.
    for name in reversed(SPEAKS_FIRST):
        losses = by_name.get(name)
        if losses is not None:
            for row, why in zip(losses.losses.row, losses.losses.why, strict=True):
                if why not in OF_WHOLE:
                    verdicts[row] = VERDICT_OF[why]
    return tuple(verdicts)
