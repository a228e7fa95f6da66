"""An assessment as one JSON object, schema `oido.measure/1`.

Beats are quarter notes everywhere; notes are numbered from 0 by (onset, pitch).
"""

from collections.abc import Mapping
from typing import Any

from ear.assess import VERSION, Assessment
from ear.findings.standing import Standing
from ear.marking.marks import mark_to_json
from ear.measuring.figures import Figure
from ear.measuring.measures import PlaceProfile
from ear.units import TICKS_PER_QUARTER

SCHEMA = "oido.measure/1"


def assessment_to_json(a: Assessment) -> dict[str, Any]:
    return {
        "schema": SCHEMA,
        "version": VERSION,
        "level": a.level.key,
        "target": {
            "kind": a.part.kind.value,
            "notes": len(a.part.notes),
            "bars": len(a.part.bars),
            "bpm": a.part.tempos.first_bpm,
            "meter": f"{a.part.meters.first.numerator}/{a.part.meters.first.denominator}",
        },
        "take": {
            "notes": len(a.take.notes),
            "latency_ms": a.take.latency_ms,
            "has_touch": a.take.has_touch,
            "is_foreign": a.match.is_foreign,
            "has_click": a.measures.has_click,
            "looks_quantised": a.measures.looks_quantised,
        },
        "pairs": _pairs(a),
        "measures": _measures(a),
        **mark_to_json(a.mark),
        "ear_notes": [
            {
                "kind": f.kind,
                "bars": [f.first_bar, f.last_bar] if f.first_bar is not None else None,
                "beat": f.quarter,
                "place": f.place,
                "size": round(f.size, 3),
                "unit": f.unit,
                "criterion": f.criterion.value if f.criterion else None,
                "cost": round(f.cost, 2),
                "praise": f.is_praise,
                "targets": list(f.targets),
                "takes": list(f.takes),
                "practice": {
                    "bars": [f.practice.first_bar, f.practice.last_bar],
                    "tempo_share": f.practice.tempo_share,
                    "alone": f.practice.alone,
                }
                if f.practice
                else None,
                "teacher": f.for_teacher.said(),
                "student": f.for_student.said(),
            }
            for f in a.findings
        ],
    }


def standing_from_json(result: Mapping[str, Any]) -> Standing | None:
    """How the take of a stored result stood; None where nothing of it was found."""
    measures, counts = result["measures"], result["measures"]["counts"]
    linked = counts["matched"] + counts["wrong_pitch"]
    if not linked:
        return None
    return Standing(
        target=counts["target"],
        matched=counts["matched"],
        linked=linked,
        slips=len(measures["slips"]),
        bias_ms=measures["bias_ms"],
        spread_ms=measures["spread_ms"],
    )


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _pairs(a: Assessment) -> list[dict[str, Any]]:
    rows = []
    for pair, note in zip(a.match.pairs, a.measures.notes, strict=True):
        row: dict[str, Any] = {
            "target": pair.target,
            "take": pair.take,
            "outcome": pair.outcome.value,
            "deviation_ms": _rounded(note.deviation_ms, 2),
            "on_click_ms": _rounded(note.on_click_ms, 2),
            "velocity_difference": note.velocity_difference,
            "length_ratio": _rounded(note.length_ratio, 3),
        }
        if pair.near is not None:
            row["near"] = pair.near
        if pair.is_graze:
            row["graze"] = True
        if pair.is_abandoned:
            row["restart"] = True
        rows.append(row)
    return rows


def _measures(a: Assessment) -> dict[str, Any]:
    timing, dynamics, feel = a.measures.timing, a.measures.dynamics, a.measures.feel
    figures: dict[str, Figure] = {
        "bias_ms": timing.bias_ms,
        "spread_ms": timing.spread_ms,
        "drift_ms_per_bar": timing.drift_ms_per_bar,
        "chord_spread_ms": timing.chord_spread_ms,
        "length_ratio": a.measures.length_ratio,
        "overlap_ms": feel.overlap_ms,
        "swing_ratio": feel.swing_ratio,
        "target_swing_ratio": feel.target_swing_ratio,
        "level": dynamics.level,
        "range": dynamics.range_ratio,
        "contour": dynamics.contour,
        "accent_contrast": dynamics.accent_contrast,
        "target_accent_contrast": dynamics.target_accent_contrast,
        "evenness": dynamics.evenness,
    }
    counts = a.measures.counts
    return {
        **{name: _rounded(f.value, 3) for name, f in figures.items()},
        "why_not": {name: f.why_not for name, f in figures.items() if f.why_not},
        # Without a click notes are judged by the player's own pulse, which may bend.
        "pulse_ms": None if a.measures.has_click else [round(ms, 2) for ms in timing.steady_ms.tolist()],
        "tempo_ratio": round(timing.tempo_ratio, 5),
        "played_bpm": round(timing.played_bpm, 2),
        "within_window": _rounded(a.mark.within_window, 4),
        "snap_errors": list(feel.snap_errors),
        "ramps": [
            {
                "beats": [ramp.first_tick / TICKS_PER_QUARTER, ramp.last_tick / TICKS_PER_QUARTER],
                "target_slope": round(ramp.target_slope, 3),
                "take_slope": round(ramp.take_slope, 3),
            }
            for ramp in feel.ramps
        ],
        "transposition": a.match.transposition,
        "slips": [
            {
                "bar": a.part.meters.bar_at(s.quarter * 480).number,
                "beat": round(s.quarter - a.part.meters.bar_at(s.quarter * 480).start_tick / 480 + 1, 3),
                "beats": round(s.quarters, 3),
                "kind": s.kind.value,
            }
            for s in a.match.time_base.slips
        ],
        "counts": {name: getattr(counts, name) for name in counts.__slots__},
        "grid_ticks": a.measures.grid_ticks,
        "unplayed_bars_at_end": a.measures.unplayed_bars_at_end,
        "profile": {
            "tick": _profile(timing.by_tick),
            "lane": _profile(timing.by_lane),
            "hand": _profile(timing.by_hand),
            "bar": _profile(timing.by_bar),
        },
    }


def _profile(profiles: tuple[PlaceProfile, ...]) -> list[dict[str, Any]]:
    return [
        {
            "place": p.place,
            "count": p.count,
            "median_ms": round(p.median_ms, 2),
            "spread_ms": round(p.spread_ms, 2),
        }
        for p in profiles
    ]
