"""A judged take as one JSON object: schemas `oido.measure/1` and `oido.measure/2`.

Beats are quarter notes everywhere; notes are numbered from 0 by (onset, pitch). Both are described in
docs/guide/measurement.md. Schema 1 has no place for verdicts, for rows' costs or for ceilings.
"""

from ear.assess import Assessment
from ear.extraction.codec import facts_to_json
from ear.extraction.finding_codec import finding_values
from ear.facts.facts import Facts
from ear.findings.finding import Finding
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.judging.judgement import Criterion, Judgement
from ear.judging.working import describe_ceiling, describe_line
from ear.plain import to_plain
from ear.reader import ENGLISH
from ear.words.why_not import WHY_NOT

SCHEMA_1, SCHEMA_2 = "oido.measure/1", "oido.measure/2"
SCHEMAS = {1: SCHEMA_1, 2: SCHEMA_2}
DEFAULT_SCHEMA = 1


def assessment_to_json(a: Assessment, *, schema: int = DEFAULT_SCHEMA) -> dict[str, object]:
    """Return an assessment as plain values for JSON, in schema `oido.measure/1` or `/2`."""
    return _schema_2(a.facts, a.judgement) if schema == 2 else _schema_1(a.facts, a.judgement)


def _schema_2(facts: Facts, judged: Judgement) -> dict[str, object]:
    """Facts as they are stored, and the judgement beside them."""
    scores = judged.scores
    return {
        "schema": SCHEMA_2,
        "facts": facts_to_json(facts),
        "judgement": {
            "version": scores.version,
            "level": scores.level,
            "window": {"full_ms": round(scores.window.full_ms, 2), "none_ms": round(scores.window.none_ms, 2)},
            "forgiven_ms": scores.forgiven_ms,
            "within_window": _rounded(scores.within_window, 4),
            "criteria": [
                {
                    "name": c.name,
                    "score": c.score,
                    "weight": c.weight,
                    "set_weight": c.set_weight,
                    "points": c.points,
                    "losses": [
                        {"row": row, "points": round(points, 6), "why": why}
                        for row, points, why in zip(c.losses.row, c.losses.points, c.losses.why, strict=True)
                    ],
                    "working": [
                        {"code": line.code, "values": to_plain(dict(line.values))} for line in c.lines
                    ],
                }
                for c in judged.criteria
            ],
            "sum": judged.sum,
            "ceiling": to_plain(judged.ceiling),
            "total": judged.total,
            "points": judged.points,
            "out_of": judged.out_of,
            "band": judged.band.name,
            "rows": [
                {"verdict": verdict, "cost": round(cost, 6), "judged_ms": ms}
                for verdict, cost, ms in zip(judged.verdicts, judged.row_costs, scores.judged_ms, strict=True)
            ],
            "ear_notes": [
                *(_note_2(facts, t.finding, t.cost) for t in judged.faults),
                *(_note_2(facts, finding, 0.0) for finding in judged.praise),
            ],
            "rest": to_plain(judged.rest),
        },
    }  # fmt: skip


def _note_2(facts: Facts, finding: Finding, cost: float) -> dict[str, object]:
    kind = finding.kind
    return {
        "code": finding.code,
        "tone": kind.tone.value,
        "criterion": kind.criterion,
        "cost": round(cost, 6),
        "size": round(finding.size, 3),
        "unit": finding.unit,
        "bars": list(finding.bars) if finding.bars else None,
        "place": finding.place,
        "rows": list(finding.rows),
        "values": finding_values(finding),
        "practice": _practice(facts, finding),
        "teacher": render_finding(finding, FOR_TEACHER, ENGLISH),
        "student": render_finding(finding, FOR_STUDENT, ENGLISH),
    }


def _practice(facts: Facts, finding: Finding) -> dict[str, object] | None:
    practice = finding.practice(last_bar=facts.target.bars, targets=facts.target.notes)
    if practice is None:
        return None
    bars = [practice.first_bar, practice.last_bar]
    return {"bars": bars, "tempo_share": practice.tempo_share, "alone": practice.alone}


def _schema_1(facts: Facts, judged: Judgement) -> dict[str, object]:
    scores = judged.scores
    return {
        "schema": SCHEMA_1,
        "version": facts.version,
        "level": scores.level,
        "target": {
            "kind": facts.target.kind.value,
            "notes": facts.target.notes,
            "bars": facts.target.bars,
            "bpm": facts.target.bpm,
            "meter": facts.target.meter,
        },
        "take": {
            "notes": facts.take.notes,
            "latency_ms": facts.take.latency_ms,
            "has_touch": facts.take.has_touch,
            "is_foreign": facts.take.is_foreign,
            "has_click": facts.take.has_click,
            "looks_quantised": facts.take.looks_quantised,
        },
        "pairs": _pairs(facts),
        "measures": _measures(facts, scores.within_window),
        "criteria": [_criterion_1(c, judged) for c in judged.criteria],
        "score": round(judged.total, 2),
        "band": judged.band.name,
        "window": {"full_ms": round(scores.window.full_ms, 2), "none_ms": round(scores.window.none_ms, 2)},
        "ear_notes": [
            *(_note_1(facts, t.finding, t.cost, is_praise=False) for t in judged.faults),
            *(_note_1(facts, finding, 0.0, is_praise=True) for finding in judged.praise),
        ],
    }


def _criterion_1(c: Criterion, judged: Judgement) -> dict[str, object]:
    lines = [describe_line(line, ENGLISH) for line in c.lines]
    if judged.ceiling is not None and judged.ceiling.of == c.name:
        lines.append(describe_ceiling(judged.ceiling, ENGLISH))
    return {
        "name": c.name,
        "score": c.score,
        "weight": c.weight,
        "set_weight": c.set_weight,
        "working": [{"label": line.label, "figure": line.figure} for line in lines],
    }


def _note_1(facts: Facts, finding: Finding, cost: float, *, is_praise: bool) -> dict[str, object]:
    kind, targets = finding.kind, facts.target.notes
    near = [facts.rows.near[row] for row in finding.rows if row >= targets]
    return {
        "kind": finding.code,
        "bars": list(finding.bars) if finding.bars else None,
        "beat": finding.quarter,
        "place": finding.place_in_words(ENGLISH),
        "size": round(finding.size, 3),
        "unit": finding.unit,
        "criterion": kind.criterion,
        "cost": round(cost, 2),
        "praise": is_praise,
        "targets": [row for row in finding.rows if row < targets] or [i for i in near if i is not None],
        "takes": [facts.rows.take[row] for row in finding.rows if facts.rows.take[row] is not None],
        "practice": _practice(facts, finding),
        "teacher": render_finding(finding, FOR_TEACHER, ENGLISH),
        "student": render_finding(finding, FOR_STUDENT, ENGLISH),
    }


def _pairs(facts: Facts) -> list[dict[str, object]]:
    rows, pairs = facts.rows, []
    grazes, abandoned = set(rows.grazes), set(rows.abandoned)
    overlaid, in_count_in, put_right = set(rows.overlaid), set(rows.in_count_in), set(rows.put_right)
    ornaments = {one.row: one.ornament for one in rows.ornaments}
    for n in range(len(rows)):
        row: dict[str, object] = {
            "target": rows.target[n],
            "take": rows.take[n],
            "outcome": rows.outcome[n].value,
            "deviation_ms": rows.deviation_ms[n],
            "on_click_ms": rows.on_click_ms[n],
            "velocity_difference": rows.velocity_difference[n],
            "length_ratio": rows.length_ratio[n],
        }
        if rows.near[n] is not None:
            row["near"] = rows.near[n]
        if n in grazes:
            row["graze"] = True
        if n in ornaments:
            row["ornament"] = ornaments[n].value
        if n in overlaid:
            row["overlaid"] = True
        if n in put_right:
            row["put_right"] = True
        if n in in_count_in:
            row["count_in"] = True
        if n in abandoned:
            row["restart"] = True
        pairs.append(row)
    return pairs


FIGURES_1 = (
    "bias_ms", "spread_ms", "drift_ms_per_bar", "chord_spread_ms", "length_ratio", "overlap_ms", "swing_ratio",
    "target_swing_ratio", "level", "range", "contour", "accent_contrast", "target_accent_contrast", "evenness",
    "tempo_ratio", "played_bpm",
)  # fmt: skip


def _measures(facts: Facts, within_window: float | None) -> dict[str, object]:
    figures = facts.figures
    pulse = [ms for ms in facts.rows.pulse_ms if ms is not None]
    return {
        **{name: getattr(figures, name) for name in FIGURES_1},
        "why_not": {name: ENGLISH.say(WHY_NOT[code], {}) for name, code in figures.why_not.items()},
        "pulse_ms": None if facts.take.has_click else pulse,
        "within_window": _rounded(within_window, 4),
        "snap_errors": list(facts.snap_errors),
        "ramps": [to_plain(ramp) for ramp in facts.ramps],
        "transposition": facts.transposition,
        "slips": [
            {"bar": s.bar, "beat": s.beat, "beats": s.beats, "kind": s.kind.value} for s in facts.slips
        ],
        "tempo": [to_plain(one) for one in facts.tempo],
        "tempo_by_bar": [to_plain(one) for one in facts.bar_tempos],
        "counts": to_plain(facts.counts),
        "grid_ticks": facts.target.grid_ticks,
        "unplayed_bars_at_end": facts.unplayed_bars_at_end,
        "profile": to_plain(facts.profile),
    }  # fmt: skip


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)
