"""All that a mark is made from, as one small value: taken from what was just measured, or from a stored
result, so that a take can be marked again by another rubric without being measured again.

Deviations are rounded to 0.01 ms and ratios to 0.001 here, as they are stored: either way gives one mark.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ear.matching.outcome import Match, SlipKind
from ear.measuring.figures import Figure, Floats, Ints
from ear.measuring.measures import Counts, Measures
from ear.notes import Kind, Part, Take

MS_DIGITS, RATIO_DIGITS = 2, 3


@dataclass(frozen=True, slots=True, kw_only=True)
class SlipAt:
    kind: SlipKind
    bar: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DynamicFigures:
    """As in `ear.measuring.measures.Dynamics`."""

    level: Figure
    contour: Figure
    accent_contrast: Figure
    target_accent_contrast: Figure
    evenness: Figure


@dataclass(frozen=True, kw_only=True)
class Basis:
    """Rows are those of the match, by number; arrays stand in order of target."""

    kind: Kind
    bpm: float
    bars: int
    counts: Counts
    is_foreign: bool
    has_click: bool
    grid_ticks: int
    tempo_ratio: float
    played_bpm: float
    bias_ms: float
    """0 where nothing is said of lead or lag."""
    deviation_row: Ints
    judged_ms: Floats
    """Of each linked row its deviation from the player's own time base; without a click from the pulse."""
    length_row: Ints
    length_ratio: Floats
    no_length: str
    """Why there are no lengths; empty if there are."""
    dynamics: DynamicFigures
    slips: tuple[SlipAt, ...]
    unplayed_bars_at_end: int
    wrong_rows: tuple[int, ...]
    """Rows of wrong keys and missed notes."""
    many_rows: tuple[tuple[int, str], ...]
    """Rows of notes too many, each `extra`, `double` or `graze`; those of an abandoned try left out."""

    @property
    def is_nothing(self) -> bool:
        """No note of the part was found in the take."""
        return not self.counts.matched and not self.counts.wrong_pitch


def basis_of(part: Part, take: Take, found: Match, measures: Measures) -> Basis:
    timing = measures.timing
    linked = [(i, n.deviation_ms) for i, n in enumerate(measures.notes) if n.deviation_ms is not None]
    judged = [ms for _, ms in linked] if measures.has_click else timing.steady_ms.tolist()
    held = [(i, n.length_ratio) for i, n in enumerate(measures.notes) if n.length_ratio is not None]
    bias = round(timing.bias_ms.value or 0.0, 3)
    return Basis(
        kind=part.kind,
        bpm=part.tempos.first_bpm,
        bars=len(part.bars),
        counts=measures.counts,
        is_foreign=found.is_foreign,
        has_click=measures.has_click,
        grid_ticks=measures.grid_ticks,
        tempo_ratio=round(timing.tempo_ratio, 5),
        played_bpm=timing.played_bpm,
        bias_ms=bias,
        deviation_row=np.array([i for i, _ in linked], dtype=np.int64),
        judged_ms=np.array([round(ms, MS_DIGITS) for ms in judged], dtype=np.float64),
        length_row=np.array([i for i, _ in held], dtype=np.int64),
        length_ratio=np.array([round(ratio, RATIO_DIGITS) for _, ratio in held], dtype=np.float64),
        no_length=measures.length_ratio.why_not or "",
        dynamics=DynamicFigures(
            **{
                name: _rounded(getattr(measures.dynamics, name))
                for name in DynamicFigures.__slots__
            }
        ),
        slips=tuple(
            SlipAt(kind=slip.kind, bar=part.meters.bar_at(slip.quarter * 480).number)
            for slip in found.time_base.slips
        ),
        unplayed_bars_at_end=measures.unplayed_bars_at_end,
        wrong_rows=tuple(
            i for i, p in enumerate(found.pairs) if p.outcome.value in ("missed", "wrong_pitch")
        ),
        many_rows=tuple(
            (i, "graze" if p.is_graze else p.outcome.value)
            for i, p in enumerate(found.pairs)
            if p.target is None and not p.is_abandoned
        ),
    )  # fmt: skip


def basis_from_json(result: Mapping[str, Any]) -> Basis:
    """From a stored result, schema `oido.measure/1`."""
    measures, target, pairs = result["measures"], result["target"], result["pairs"]
    why_not = measures["why_not"]
    bias = measures["bias_ms"] or 0.0
    linked = [(i, row["deviation_ms"]) for i, row in enumerate(pairs) if row["deviation_ms"] is not None]
    held = [(i, row["length_ratio"]) for i, row in enumerate(pairs) if row["length_ratio"] is not None]
    judged = measures.get("pulse_ms") or [ms for _, ms in linked]
    return Basis(
        kind=Kind(target["kind"]),
        bpm=target["bpm"],
        bars=target["bars"],
        counts=Counts(**measures["counts"]),
        is_foreign=result["take"]["is_foreign"],
        has_click=result["take"].get("has_click", True),
        grid_ticks=measures["grid_ticks"],
        tempo_ratio=measures["tempo_ratio"],
        played_bpm=measures["played_bpm"],
        bias_ms=bias,
        deviation_row=np.array([i for i, _ in linked], dtype=np.int64),
        judged_ms=np.array(judged, dtype=np.float64),
        length_row=np.array([i for i, _ in held], dtype=np.int64),
        length_ratio=np.array([ratio for _, ratio in held], dtype=np.float64),
        no_length=why_not.get("length_ratio", ""),
        dynamics=DynamicFigures(
            **{
                name: Figure(value=measures[name], why_not=why_not.get(name))
                for name in DynamicFigures.__slots__
            }
        ),
        slips=tuple(SlipAt(kind=SlipKind(slip["kind"]), bar=slip["bar"]) for slip in measures["slips"]),
        unplayed_bars_at_end=measures["unplayed_bars_at_end"],
        wrong_rows=tuple(i for i, row in enumerate(pairs) if row["outcome"] in ("missed", "wrong_pitch")),
        many_rows=tuple(
            (i, "graze" if row.get("graze") else row["outcome"])
            for i, row in enumerate(pairs)
            if row["target"] is None and not row.get("restart")
        ),
    )  # fmt: skip


def _rounded(figure: Figure) -> Figure:
    return Figure(
        value=None if figure.value is None else round(figure.value, RATIO_DIGITS), why_not=figure.why_not
    )
