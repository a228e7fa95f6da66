"""Who of a class needs help: sorted and flagged by what is beyond chance, with the takes behind it."""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.utils.translation import gettext as _

from ear.matching.fit import robust_spread
from ear.progress.standings import TakeFigures
from oido.people.models import SchoolClass, User
from oido.progress.progress import (
    MEASURES,
    MINUTE_S,
    Measure,
    TrendText,
    describe_trend,
    measured_takes,
    trend_of,
)
from oido.takes.models import Take

MIN_CLASS = 5
"""Class-mates that handed in the same, below which nobody is compared with them."""
RECENT = 3
"""The last assignments that are looked at for it, of those that enough have handed in."""
APART = 2.0
"""Robust spreads of the class by which somebody is told to be behind it, in the mean of those assignments."""
COMPARED = ("notes", "steadiness")
ERRORS = 2.0
"""Standard errors of that mean which it has to exceed, too."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NeedSign:
    """One thing that is beyond chance: what, in words, whether it is good or bad, and the takes that it is told from."""

    name: Any
    trend: TrendText
    takes: tuple[Take, ...]

    @property
    def is_bad(self) -> bool:
        return self.trend.tone == "wrong"

    @property
    def by_exercise(self) -> list[tuple[str, list[Take]]]:
        """The takes with the exercise that they are of."""
        groups: dict[str, list[Take]] = {}
        for take in self.takes:
            groups.setdefault(take.assignment.exercise.title, []).append(take)
        return list(groups.items())

    @property
    def pair(self) -> tuple[Take, Take] | None:
        """The first and the last, where they can be compared."""
        first, last = self.takes[0], self.takes[-1]
        return (first, last) if first.pk != last.pk and first.assignment_id == last.assignment_id else None


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassRow:
    student: User
    takes: int
    minutes: float
    spread_ms: float | None
    right_percent: float | None
    """Of the latest take."""
    flags: tuple[NeedSign, ...]

    @property
    def needs_help(self) -> bool:
        return any(flag.is_bad for flag in self.flags)

    @property
    def order(self) -> tuple[int, float]:
        """Who has most that is amiss ahead; among equals who has fewest notes right."""
        bad = sum(flag.is_bad for flag in self.flags)
        right = 100.0 if self.right_percent is None else self.right_percent
        return -bad, right if bad else 0.0


TakesWithFigures = list[tuple[Take, TakeFigures]]


def class_progress(school_class: SchoolClass) -> list[ClassRow]:
    """Return a row for each student, by what was handed in to this class.

    Students who need help come first, then by name.
    """
    students = list(school_class.students.order_by("last_name", "first_name", "pk"))
    takes = measured_takes(
        Take.objects.filter(assignment__school_class=school_class, handed_in_at__isnull=False)
    )
    by_student: dict[int, TakesWithFigures] = defaultdict(list)
    for take, figures in takes:
        by_student[take.student_id].append((take, figures))
    behind = _behind_class(takes)
    rows = [_row(student, by_student[student.pk], behind.get(student.pk, [])) for student in students]
    # A stable order: those alike stay by name.
    return sorted(rows, key=lambda row: row.order)


def _row(student: User, measured: TakesWithFigures, behind: Sequence[NeedSign]) -> ClassRow:
    latest = measured[-1][1] if measured else None
    changes = []
    for measure in MEASURES:
        change, count = trend_of(measure, measured)
        if change is not None and change.is_change:
            used = tuple(take for take, figures in measured if measure.value(figures) is not None)
            changes.append(
                NeedSign(name=measure.name, trend=describe_trend(measure, change, count), takes=used)
            )
    return ClassRow(
        student=student,
        takes=len(measured),
        minutes=sum(figures.seconds for _take, figures in measured) / MINUTE_S,
        spread_ms=latest.spread_ms if latest else None,
        right_percent=latest.right_percent if latest else None,
        flags=(*behind, *changes),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Away:
    """One take's figure against the middle of the class."""

    take: Take
    spreads: float
    """How far it is behind, in spreads of the class."""
    error: float
    """The figure's own standard error, in the same."""
    own: float
    middle: float


def _behind_class(measured: TakesWithFigures) -> dict[int, list[NeedSign]]:
    """Who is behind what the class can do, in the last assignments together: each figure against the middle of the
    class, in robust spreads, as far as it is beyond the figure's own error."""
    flags: dict[int, list[NeedSign]] = defaultdict(list)
    for measure in MEASURES:
        if measure.key not in COMPARED:
            continue
        apart: dict[int, list[_Away]] = defaultdict(list)
        for takes in _comparable(measured)[-RECENT:]:
            _compare(measure, takes, apart)
        for student, seen in apart.items():
            mean = sum(one.spreads for one in seen) / len(seen)
            error = math.sqrt(sum(one.error**2 for one in seen)) / len(seen)
            if mean < max(APART, ERRORS * error):
                continue
            own, middle = seen[-1].own, seen[-1].middle
            text = _("Behind the class: %(own)s; typical for the class is %(middle)s.") % {
                "own": f"{own:.0f} {measure.unit}", "middle": f"{middle:.0f} {measure.unit}",
            }  # fmt: skip
            flags[student].append(
                NeedSign(
                    name=measure.name,
                    trend=TrendText(text=text, brief=text, tone="wrong"),
                    takes=tuple(one.take for one in seen),
                )
            )
    return flags


def _comparable(measured: TakesWithFigures) -> list[TakesWithFigures]:
    """The takes of each assignment, in order, that enough of the class have handed in."""
    of_assignment: dict[int, TakesWithFigures] = defaultdict(list)
    for take, figures in measured:
        of_assignment[take.assignment_id].append((take, figures))
    return [
        takes
        for takes in of_assignment.values()
        if len({take.student_id for take, _figures in takes}) >= MIN_CLASS
    ]


def _compare(measure: Measure, takes: TakesWithFigures, apart: dict[int, list[_Away]]) -> None:
    values = [(take, pair) for take, figures in takes if (pair := measure.value(figures)) is not None]
    if len({take.student_id for take, _pair in values}) < MIN_CLASS:
        return
    all_values = np.array([value for _take, (value, _error) in values], dtype=np.float64)
    middle, spread = float(np.median(all_values)), robust_spread(all_values)
    for take, (value, error) in values:
        away = (value - middle) if measure.is_lower_better else (middle - value)
        # A class that is all alike makes no flag of nothing.
        scale = max(spread, MIN_APART[measure.key])
        apart[take.student_id].append(
            _Away(take=take, spreads=away / scale, error=error / scale, own=value, middle=middle)
        )


MIN_APART = {"notes": 4.0, "steadiness": 5.0}
"""Per cent, and ms: a spread smaller than this is nobody's lag."""
