"""Marks of the first release as scores: what its results, schema `oido.measure/1`, said of every note.

A mark that students have seen must read tomorrow as it read then, so its scores, weights and workings are
taken over, and what a row had lost is counted by that release's rule: a straight line between its windows.
Nothing new is judged by this.
"""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ear.criteria.credits import spread
from ear.criteria.length import FULL_OCTAVES, LENGTH, LONG, NONE_OCTAVES, SHORT
from ear.criteria.levels import Window
from ear.criteria.notes import NOTES
from ear.criteria.notes.scoring import DOUBLE, DOUBLE_WEIGHT, EXTRA, EXTRA_WEIGHT, GRAZE, GRAZE_WEIGHT, WRONG
from ear.criteria.score import MISSED, CriterionScore, Losses, LossReason, WorkingLine
from ear.criteria.timing import TIMING
from ear.criteria.timing.scoring import EARLY, LATE
from ear.criterion import CriterionKey
from ear.facts.facts import Facts
from ear.judging.judgement import Scores
from ear.matching.outcome import Outcome


def scores_of_first_release(data: Mapping[str, Any], facts: Facts, *, forgiven_most_ms: float) -> Scores:
    """Return scores that the first release stored.

    `forgiven_most_ms` is what its rubric forgave. Raises KeyError, TypeError or ValueError for anything else.
    """
    window = Window(full_ms=float(data["window"]["full_ms"]), none_ms=float(data["window"]["none_ms"]))
    bias = facts.figures.bias_ms or 0.0
    forgiven = max(-forgiven_most_ms, min(forgiven_most_ms, bias))
    judged = tuple(
        None if ms is None else round(ms - forgiven, 2)
        for ms in (facts.rows.deviation_ms if facts.take.has_click else facts.rows.pulse_ms)
    )
    rows = {
        NOTES: lambda: _notes(facts),
        TIMING: lambda: _timing(judged, window),
        LENGTH: lambda: _length(facts),
    }
    criteria = []
    for stored in data["criteria"]:
        name = CriterionKey(stored["name"])
        score = None if stored["score"] is None else float(stored["score"])
        lost = 0.0 if score is None else 100.0 - score
        criteria.append(
            CriterionScore(
                name=name,
                score=score,
                losses=_losses(lost, rows[name]()) if name in rows and not facts.is_nothing else Losses(),
                lines=tuple(
                    WorkingLine(
                        code="as_stored", values={"label": str(w["label"]), "figure": str(w["figure"])}
                    )
                    for w in stored["working"]
                ),
            )
        )
    return Scores(
        version=facts.version,
        level=str(data["level"]),
        window=window,
        forgiven_ms=round(forgiven, 2),
        criteria=tuple(criteria),
        judged_ms=judged,
        within_window=data["measures"].get("within_window"),
        is_first_release=True,
    )


_Rows = tuple[list[int], list[float], list[LossReason]]


def _losses(lost: float, rows: _Rows) -> Losses:
    row_numbers, raw, why = rows
    return spread(
        lost,
        np.array(row_numbers, dtype=np.int64),
        np.array(raw, dtype=np.float64),
        np.array(why, dtype=np.str_),
    )


def _notes(facts: Facts) -> _Rows:
    rows: _Rows = ([], [], [])
    grazes, abandoned = set(facts.rows.grazes), set(facts.rows.abandoned)
    for n, outcome in enumerate(facts.rows.outcome):
        if outcome is Outcome.MATCHED or n in abandoned:
            continue
        if n in grazes:
            lost, why = GRAZE_WEIGHT, GRAZE
        elif outcome is Outcome.DOUBLE:
            lost, why = DOUBLE_WEIGHT, DOUBLE
        else:
            why = {Outcome.MISSED: MISSED, Outcome.WRONG_PITCH: WRONG}.get(outcome, EXTRA)
            lost = EXTRA_WEIGHT
        _add(rows, n, lost, why)
    return rows


def _timing(judged: tuple[float | None, ...], window: Window) -> _Rows:
    rows: _Rows = ([], [], [])
    for n, ms in enumerate(judged):
        if ms is not None and abs(ms) > window.full_ms:
            reach = max(1e-6, window.none_ms - window.full_ms)
            _add(
                rows,
                n,
                min(1.0, (abs(ms) - window.full_ms) / reach),
                EARLY if ms < 0 else LATE,
            )
    return rows


def _length(facts: Facts) -> _Rows:
    rows: _Rows = ([], [], [])
    for n, ratio in enumerate(facts.rows.length_ratio):
        off = 0.0 if ratio is None else abs(float(np.log2(max(ratio, 1e-3)))) - FULL_OCTAVES
        if off > 0.0 and ratio is not None:
            reach = NONE_OCTAVES - FULL_OCTAVES
            _add(rows, n, min(1.0, off / reach), SHORT if ratio < 1 else LONG)
    return rows


def _add(rows: _Rows, n: int, lost: float, why: LossReason) -> None:
    rows[0].append(n)
    rows[1].append(lost)
    rows[2].append(why)
