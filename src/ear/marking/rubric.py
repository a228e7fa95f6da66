"""Rubrics: criteria, weights and bands."""

from dataclasses import dataclass
from enum import StrEnum

from ear.errors import ValueOutOfRange
from ear.notes import Kind


class CriterionName(StrEnum):
    NOTES = "notes"
    TIMING = "timing"
    FLOW = "flow"
    DYNAMICS = "dynamics"
    LENGTH = "length"


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """A school's word for totals from `least` up."""

    least: float
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Rubric:
    """Which criteria count, how much each, and the words for the total."""

    weights: tuple[tuple[CriterionName, float], ...]
    bands: tuple[Band, ...]
    forgiven_bias_ms: float = 30.0
    """A constant lead or lag up to this costs nothing: it may be the set-up's."""

    def __post_init__(self) -> None:
        if any(weight < 0 for _, weight in self.weights) or not any(w for _, w in self.weights):
            raise ValueOutOfRange("a rubric needs weights of 0 or more, and one above 0")
        if not self.bands or min(band.least for band in self.bands) > 0:
            raise ValueOutOfRange("a rubric's bands begin at 0")

    def band(self, total: float) -> Band:
        return max((b for b in self.bands if b.least <= total), key=lambda b: b.least)


DEFAULT_BANDS = (
    Band(least=0, name="Begin again"),
    Band(least=40, name="On the way"),
    Band(least=60, name="Taking shape"),
    Band(least=75, name="Assured"),
    Band(least=90, name="Concert-ready"),
)

_C = CriterionName
DEFAULT_RUBRICS = {
    Kind.KEYBOARD: Rubric(
        weights=((_C.NOTES, 35), (_C.TIMING, 35), (_C.FLOW, 10), (_C.DYNAMICS, 10), (_C.LENGTH, 10)),
        bands=DEFAULT_BANDS,
    ),
    Kind.DRUMS: Rubric(
        weights=((_C.NOTES, 30), (_C.TIMING, 45), (_C.FLOW, 10), (_C.DYNAMICS, 15)),
        bands=DEFAULT_BANDS,
    ),
}
