"""Rubrics: criteria, weights and bands; how a mark is written down."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import msgspec

from ear.criteria.levels import Level, level_named
from ear.criteria.table import CRITERIA
from ear.criterion import CriterionKey
from ear.errors import EarError, FormatError, ValueOutOfRange
from ear.notes import Kind
from ear.numerals import decimal
from ear.plain import from_plain, to_plain
from ear.text import term

MAX_NAME_LENGTH = 80
MAX_TEACHER_CRITERIA, MAX_STEPS, MAX_BANDS, MAX_HELP = 12, 12, 12, 6
MAX_ADDED = 2
"""Criteria marked by hand that an exercise adds to those of a rubric."""
MAX_WEIGHT = 1000.0
MAX_FORGIVEN_MS = 200.0
MAX_OUT_OF = 1000
MAX_FLOOR = 95.0
ROUNDING_NUDGE = 1e-9
"""What sums of floats may lack of the half from which a mark is rounded up."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """A school's word for totals from `least` up."""

    least: float
    """Per cent of the whole."""
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CriterionLevel:
    """A level of a criterion in the school's words, and the points of 100 that it gives."""

    name: str
    points: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TeacherCriterion:
    """A criterion that a teacher marks: by levels in words, by a checklist, or with neither by a number.

    Of a checklist each item ticked gives its share of 100.
    """

    key: str
    label: str
    weight: float
    steps: tuple[CriterionLevel, ...] = ()
    items: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.key.startswith(TEACHER_PREFIX) or not _is_name(self.label):
            raise ValueOutOfRange("criterion_name_length", name_most=MAX_NAME_LENGTH)
        if self.steps and self.items:
            raise ValueOutOfRange("criterion_both_levels_and_checklist")
        if len(self.steps) > MAX_STEPS or len(self.items) > MAX_STEPS:
            raise ValueOutOfRange("criterion_steps_out_of_range", steps_most=MAX_STEPS)
        if not all(_is_name(s.name) and 0 <= s.points <= 100 for s in self.steps):
            raise ValueOutOfRange("level_incomplete")
        if not all(map(_is_name, self.items)):
            raise ValueOutOfRange("tick_name_length", name_most=MAX_NAME_LENGTH)

    def ticked(self, count: int) -> float:
        """Return the points of 100 for so many ticked items."""
        return 100.0 * count / len(self.items)


LATE_COST, MAX_LATE = 5.0, 30.0
OTHER_KEY_SHARE = 0.3
TEACHER_PREFIX = "hand-"
"""Of the keys of what is marked by hand, so that none is taken for a measured one."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpCost:
    """How much help was given, in words, and the points of 100 that it takes off the mark."""

    name: str
    cost: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Rubric:
    """Which criteria count, how much each, the words for the total, and how it is written.

    `out_of` is the mark's whole (100, 20, 10 …); it is rounded to whole points, or to halves.
    """

    weights: tuple[tuple[CriterionKey, float], ...]
    bands: tuple[Band, ...]
    forgiven_bias_ms: float = 30.0
    """A constant lead or lag up to this costs nothing: it may be the set-up's."""
    level: Level | None = None
    """None for that of the exercise."""
    teacher_criteria: tuple[TeacherCriterion, ...] = ()
    help: tuple[HelpCost, ...] = ()
    """From none at all; empty where it is not asked."""
    out_of: int = 100
    half_points: bool = False
    floor_percent: float | None = None
    """Share of right notes up to which Notes gives nothing; None for the level's."""
    beside_share: float | None = None
    """What steady playing beside the click is worth against playing with it; None for the level's."""
    other_key_share: float = OTHER_KEY_SHARE
    """What of Notes it costs to play everything in another key; another octave costs nothing."""
    has_ceilings: bool = True
    """Notes, Timing and Flow bound the whole."""
    late_cost: float = LATE_COST
    """Points of 100 off for each day begun after the due date, where an assignment says that late costs."""
    late_most: float = MAX_LATE
    """No more than this, however late."""

    def __post_init__(self) -> None:
        weights = [*(weight for _, weight in self.weights), *(c.weight for c in self.teacher_criteria)]
        if any(not 0 <= weight <= MAX_WEIGHT for weight in weights) or not any(weights):
            raise ValueOutOfRange("weights_out_of_range")
        if any(key not in CRITERIA for key, _ in self.weights):
            raise FormatError(expected=term("a rubric"), actual="another criterion")
        if not self.bands or min(band.least for band in self.bands) > 0:
            raise ValueOutOfRange("bands_not_from_zero")
        if len(self.bands) > MAX_BANDS or len({band.least for band in self.bands}) < len(self.bands):
            raise ValueOutOfRange("bands_out_of_range", bands_most=MAX_BANDS)
        if not all(_is_name(band.name) and 0 <= band.least <= 100 for band in self.bands):
            raise ValueOutOfRange("band_incomplete")
        keys = [*(name for name, _ in self.weights), *(c.key for c in self.teacher_criteria)]
        if len(set(keys)) < len(keys) or len(self.teacher_criteria) > MAX_TEACHER_CRITERIA + MAX_ADDED:
            raise ValueOutOfRange("teacher_criteria_out_of_range", hand_most=MAX_TEACHER_CRITERIA)
        if len(self.help) > MAX_HELP or not all(_is_name(h.name) and 0 <= h.cost <= 100 for h in self.help):
            raise ValueOutOfRange("help_incomplete")
        if self.floor_percent is not None and not 0 <= self.floor_percent <= MAX_FLOOR:
            raise ValueOutOfRange("notes_floor_out_of_range", floor_most=decimal(MAX_FLOOR))
        if self.beside_share is not None and not 0 <= self.beside_share <= 1:
            raise ValueOutOfRange("beside_click_share_out_of_range")
        if not 0 <= self.other_key_share <= 1:
            raise ValueOutOfRange("other_key_share_out_of_range")
        if not (0 <= self.late_cost <= 100 and 0 <= self.late_most <= 100):
            raise ValueOutOfRange("late_cost_out_of_range")
        if not 1 <= self.out_of <= MAX_OUT_OF:
            raise ValueOutOfRange("mark_total_out_of_range", out_of_most=MAX_OUT_OF)
        if not 0 <= self.forgiven_bias_ms <= MAX_FORGIVEN_MS:
            raise ValueOutOfRange("forgiven_bias_out_of_range", forgiven_most_ms=decimal(MAX_FORGIVEN_MS))

    def cost_of_late(self, days: int) -> float:
        """Return the points of 100 taken off for so many days begun after the due date."""
        return min(self.late_most, self.late_cost * days)

    def points(self, total: float) -> float:
        """Return a total of 0 to 100 on the rubric's scale, rounded half up."""
        step = 0.5 if self.half_points else 1.0
        return math.floor(total / 100.0 * self.out_of / step + 0.5 + ROUNDING_NUDGE) * step

    def band(self, total: float) -> Band:
        """Return the band by the mark as it is written: a written 90 is in the band that begins at 90."""
        written = 100.0 * self.points(total) / self.out_of
        return max((b for b in self.bands if b.least <= written + ROUNDING_NUDGE), key=lambda b: b.least)

    def criterion(self, key: str) -> TeacherCriterion | None:
        """Return a criterion that the teacher marks, by its key; None if there is none."""
        return next((c for c in self.teacher_criteria if c.key == key), None)

    def to_json(self) -> dict[str, object]:
        """Return this as plain values for JSON."""
        stored = _StoredRubric(
            weights=dict(self.weights), bands=[(band.least, band.name) for band in self.bands],
            forgiven_ms=self.forgiven_bias_ms, level=self.level.key if self.level else None,
            hand=[
                _StoredTeacherCriterion(
                    key=c.key, label=c.label, weight=c.weight, steps=[(s.name, s.points) for s in c.steps], items=c.items,
                )
                for c in self.teacher_criteria
            ],
            help=[(h.name, h.cost) for h in self.help], out_of=self.out_of, half_points=self.half_points,
            floor_percent=self.floor_percent, beside_share=self.beside_share, has_ceilings=self.has_ceilings,
            late_cost=self.late_cost, late_most=self.late_most, other_key_share=self.other_key_share,
        )  # fmt: skip
        plain: dict[str, object] = to_plain(stored)
        return plain

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> "Rubric":
        """Return the value that `to_json` wrote. Raises FormatError."""
        stored = from_plain(data, _StoredRubric, expected="a rubric")
        try:
            return cls(
                weights=tuple(stored.weights.items()),
                bands=tuple(Band(least=least, name=name) for least, name in stored.bands),
                forgiven_bias_ms=stored.forgiven_ms,
                level=level_named(stored.level) if stored.level else None,
                teacher_criteria=tuple(
                    TeacherCriterion(
                        key=c.key, label=c.label, weight=c.weight, items=c.items,
                        steps=tuple(CriterionLevel(name=name, points=points) for name, points in c.steps),
                    )
                    for c in stored.hand
                ),
                help=tuple(HelpCost(name=name, cost=cost) for name, cost in stored.help),
                out_of=stored.out_of, half_points=stored.half_points, floor_percent=stored.floor_percent,
                beside_share=stored.beside_share, has_ceilings=stored.has_ceilings,
                late_cost=stored.late_cost, late_most=stored.late_most, other_key_share=stored.other_key_share,
            )  # fmt: skip
        except EarError as problem:
            raise FormatError(expected=term("a rubric"), actual=f"{problem}") from problem


class _StoredTeacherCriterion(msgspec.Struct, kw_only=True):
    key: str
    label: str
    weight: float
    steps: list[tuple[str, float]]
    items: tuple[str, ...]


class _StoredRubric(msgspec.Struct, kw_only=True):
    weights: dict[CriterionKey, float]
    bands: list[tuple[float, str]]
    forgiven_ms: float
    level: str | None
    hand: list[_StoredTeacherCriterion]
    help: list[tuple[str, float]]
    out_of: int
    half_points: bool
    # Versions of the first release do not have these: the level's own hold for them.
    floor_percent: float | None = None
    beside_share: float | None = None
    has_ceilings: bool = True
    late_cost: float = LATE_COST
    late_most: float = MAX_LATE
    other_key_share: float = OTHER_KEY_SHARE


def _is_name(text: str) -> bool:
    return 0 < len(text.strip()) <= MAX_NAME_LENGTH


def key_of(label: str, taken: Sequence[str]) -> str:
    """Return a key for a teacher's own criterion, made from its name; another one if it is taken."""
    stem = TEACHER_PREFIX + "-".join("".join(c if c.isalnum() else " " for c in label.lower()).split())[:40]
    key, number = stem, 2
    while key in taken:
        key, number = f"{stem}-{number}", number + 1
    return key


ANSWERS = TeacherCriterion(key=f"{TEACHER_PREFIX}answers", label=term("Answers"), weight=100)
"""What a teacher marks where nothing is played, and the rubric has nothing to be marked by hand."""
DEFAULT_BANDS = (
    Band(least=0, name=term("Begin again")),
    Band(least=40, name=term("On the way")),
    Band(least=60, name=term("Taking shape")),
    Band(least=75, name=term("Assured")),
    Band(least=90, name=term("Concert-ready")),
)
DEFAULT_RUBRICS = {
    kind: Rubric(
        weights=tuple((key, row.weights[kind]) for key, row in CRITERIA.items() if kind in row.weights),
        bands=DEFAULT_BANDS,
    )
    for kind in Kind
}
