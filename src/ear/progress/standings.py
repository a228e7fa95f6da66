"""The few figures of a take by which progress is told; small enough to be read for a whole class."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from ear.findings.praise_rules import MAD_ERROR, MEDIAN_ERROR, WANDER
from ear.marking.basis import basis_from_json
from ear.marking.criteria import score
from ear.marking.levels import DEFAULT_LEVEL
from ear.marking.rubric import CriterionName
from ear.report_json import standing_from_json


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeFigures:
    """Of one take. Errors are what chance alone would make of a figure; None where there is no figure."""

    right_percent: float
    right_error: float
    spread_ms: float | None
    spread_error: float | None
    bias_ms: float | None
    bias_error: float | None
    dynamics: float | None
    """Points of 100."""
    tempo_percent: float
    """The tempo played, of the one that the exercise asks for, which is given when figures are read."""
    seconds: float
    """So long the part lasts at the tempo played, as far as it was played."""

    def to_json(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> "TakeFigures":
        return cls(**data)


def take_figures(result: Mapping[str, Any], *, asked_bpm: float, quarters: float) -> TakeFigures:
    """From a stored result; `quarters` is the length of the part. A take in which nothing of the part was
    found has 0 right and no other figures."""
    measures = result["measures"]
    standing = standing_from_json(result)
    target = measures["counts"]["target"]
    played = 1.0 - measures["unplayed_bars_at_end"] / max(1, result["target"]["bars"])
    basis = basis_from_json(result)
    # Whatever the rubric weighs: it is followed all the same. Windows do not matter to it.
    dynamics = score(basis, CriterionName.DYNAMICS, window=DEFAULT_LEVEL.window, forgiven_ms=0.0).score
    spread = standing.spread_ms if standing else None
    bias = standing.bias_ms if standing else None
    error = standing.error_ms if standing else 0.0
    return TakeFigures(
        right_percent=round(100.0 * standing.matched / target, 2) if standing and target else 0.0,
        right_error=round(100.0 * standing.matched_error / target, 2) if standing and target else 0.0,
        spread_ms=spread,
        spread_error=None if spread is None else round(MAD_ERROR * error, 2),
        bias_ms=bias,
        bias_error=None if bias is None else round(WANDER * MEDIAN_ERROR * error, 2),
        dynamics=None if standing is None or dynamics is None else round(dynamics, 2),
        tempo_percent=round(100.0 * measures["played_bpm"] / asked_bpm, 2),
        seconds=round(quarters * 60.0 / max(1.0, measures["played_bpm"]) * max(0.0, played), 1),
    )
