"""From a measured take to a mark: criteria scored, weighed, and put into a band."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ear.marking.basis import Basis, basis_from_json
from ear.marking.criteria import RowCost, WorkingLine, score, within_window
from ear.marking.levels import Level, Window, window_for
from ear.marking.rubric import Band, Rubric


@dataclass(frozen=True, slots=True, kw_only=True)
class Criterion:
    """`score` is None where it is not assessed; then `weight` is 0 and the working says why.

    `weight` is the share of the total in per cent, after re-weighting; `set_weight` is the
    rubric's own figure.
    """

    name: str
    """A `CriterionName`, or the key of one that is marked by hand."""
    score: float | None
    weight: float
    set_weight: float
    working: tuple[WorkingLine, ...]
    costs: tuple[RowCost, ...] = ()
    """In points of the total."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """The criteria, each with its working, and the total of 0 to 100."""

    criteria: tuple[Criterion, ...]
    score: float
    band: Band
    window: Window
    within_window: float | None = None
    """Share of notes in full credit; None where no note was played, or in a mark weighed anew."""


def mark(basis: Basis, *, level: Level, rubric: Rubric) -> Mark:
    """The mark of a measured take, by the rubric's level or else by `level`; what is marked by hand is
    left out. An empty or foreign take has 0 in all that is assessed."""
    window = window_for(rubric.level or level, bpm=basis.bpm * basis.tempo_ratio, grid_ticks=basis.grid_ticks)
    forgiven_ms = rubric.forgiven_bias_ms
    scored = {name: score(basis, name, window=window, forgiven_ms=forgiven_ms) for name, _ in rubric.weights}
    marked = weigh(
        [(name, weight, scored[name].score, scored[name].working) for name, weight in rubric.weights],
        rubric=rubric,
        window=window,
    )
    criteria = tuple(
        replace(
            c,
            costs=tuple(
                RowCost(row=cost.row, points=cost.points * c.weight / 100.0)
                for cost in scored[name].costs
                if c.weight
            ),
        )
        for c, (name, _) in zip(marked.criteria, rubric.weights, strict=True)
    )
    within = None if basis.is_nothing else within_window(basis, window=window, forgiven_ms=forgiven_ms)
    return replace(marked, criteria=criteria, within_window=within)


def weigh(
    rows: Sequence[tuple[str, float, float | None, tuple[WorkingLine, ...]]],
    *,
    rubric: Rubric,
    window: Window,
) -> Mark:
    """Criteria to a total: what is not assessed gives its weight to the others in proportion."""
    whole = sum(weight for _, weight, found, _ in rows if found is not None)
    criteria = tuple(
        Criterion(
            name=name,
            score=found,
            weight=100.0 * weight / whole if found is not None and whole else 0.0,
            set_weight=weight,
            working=working,
        )
        for name, weight, found, working in rows
    )
    total = sum(c.score * c.weight / 100.0 for c in criteria if c.score is not None)
    return Mark(criteria=criteria, score=total, band=rubric.band(total), window=window)


def costs_by_row(marked: Mark) -> dict[int, float]:
    """Points of the total that each row of the match has cost, in all criteria."""
    found: dict[int, float] = {}
    for criterion in marked.criteria:
        for cost in criterion.costs:
            found[cost.row] = found.get(cost.row, 0.0) + cost.points
    return found


def mark_again(result: Mapping[str, Any], *, level: Level, rubric: Rubric) -> dict[str, Any]:
    """A stored result marked by another rubric, without measuring it again.

    What ear notes cost follows the points that their criterion has lost then; their words stay.
    """
    marked = mark(basis_from_json(result), level=level, rubric=rubric)
    before = {c["name"]: _lost(c["score"], c["weight"]) for c in result["criteria"]}
    said = mark_to_json(marked)
    # By figures as they are stored, then and now: the same rubric gives the very same costs.
    now = {c["name"]: _lost(c["score"], c["weight"]) for c in said["criteria"]}
    notes = []
    for note in result["ear_notes"]:
        name = note["criterion"]
        rate = now.get(name, 0.0) / before[name] if before.get(name) else 0.0
        notes.append({**note, "cost": round(note["cost"] * rate, 2)} if name else note)
    faults = sorted((n for n in notes if not n["praise"]), key=lambda n: -n["cost"])
    return {
        **result,
        **said,
        "level": (rubric.level or level).key,
        "measures": {**result["measures"], "within_window": _rounded(marked.within_window, 4)},
        "ear_notes": [*faults, *(n for n in notes if n["praise"])],
    }


def _lost(found: float | None, weight: float) -> float:
    return 0.0 if found is None else (100.0 - found) * weight


def mark_to_json(marked: Mark) -> dict[str, Any]:
    """The part of a result that says the mark."""
    return {
        "criteria": [
            {
                "name": str(c.name),
                "score": _rounded(c.score, 2),
                "weight": round(c.weight, 2),
                "set_weight": c.set_weight,
                "working": [{"label": w.label, "figure": w.figure} for w in c.working],
            }
            for c in marked.criteria
        ],
        "score": round(marked.score, 2),
        "band": marked.band.name,
        "window": {"full_ms": round(marked.window.full_ms, 2), "none_ms": round(marked.window.none_ms, 2)},
    }


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)
