"""The few figures of a take by which progress is told; small enough to be read for a whole class."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ear.criteria.dynamics import DYNAMICS
from ear.criteria.levels import DEFAULT_LEVEL
from ear.extraction.extraction import standing_of
from ear.facts.facts import Facts
from ear.findings.standing import MAD_ERROR, MEDIAN_ERROR, WANDER
from ear.judging.judge import Rules, score
from ear.judging.rubric import DEFAULT_BANDS, Rubric
from ear.plain import from_plain, to_plain

DYNAMICS_ALONE = Rules(rubric=Rubric(weights=((DYNAMICS, 1.0),), bands=DEFAULT_BANDS), level=DEFAULT_LEVEL)
"""Whatever the rubric weighs: Dynamics is followed all the same."""


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

    def to_json(self) -> dict[str, object]:
        """Return this as plain values for JSON."""
        plain: dict[str, object] = to_plain(self)
        return plain

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> "TakeFigures":
        """Return the value that `to_json` wrote. Raises FormatError."""
        return from_plain(data, cls, expected="figures of a take")


def take_figures(facts: Facts, *, asked_bpm: float, quarters: float) -> TakeFigures:
    """Return the figures by which progress is measured, from facts.

    `quarters` is the length of the part. A take in which nothing of the part was found has 0 right notes and no
    other figures.
    """
    standing, target = standing_of(facts), facts.target.notes
    played = 1.0 - facts.unplayed_bars_at_end / max(1, facts.target.bars)
    # Of what is improvised there is no written loudness to compare with.
    dynamics = next((one.score for one in score(facts, DYNAMICS_ALONE).criteria), None)
    spread = standing.spread_ms if standing else None
    bias = standing.bias_ms if standing else None
    error = standing.error_ms if standing else 0.0
    bpm = facts.figures.played_bpm
    return TakeFigures(
        right_percent=round(100.0 * standing.matched / target, 2) if standing and target else 0.0,
        right_error=round(100.0 * standing.matched_error / target, 2) if standing and target else 0.0,
        spread_ms=spread,
        spread_error=None if spread is None else round(MAD_ERROR * error, 2),
        bias_ms=bias,
        bias_error=None if bias is None else round(WANDER * MEDIAN_ERROR * error, 2),
        dynamics=None if standing is None else dynamics,
        tempo_percent=round(100.0 * bpm / asked_bpm, 2),
        seconds=round(quarters * 60.0 / max(1.0, bpm) * max(0.0, played), 1),
    )
