"""Progress: one student from take to take, by exercise and over all; and a class side by side."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db.models import QuerySet
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, ngettext

from ear.progress.course import Course, CourseValue, course
from ear.progress.standings import TakeFigures
from ear.progress.trend import MIN_TAKES, Trend, trend
from oido.assignments.models import Assignment
from oido.assignments.queries import visible_assignments
from oido.common.sources import Source
from oido.people.models import User
from oido.takes.models import RungClimbed, Take

MINUTE_S = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """One figure that is followed: where it stands, which way is better, how it is said."""

    key: str
    name: Any
    unit: Any
    is_lower_better: bool
    better: Any
    worse: Any
    brief: tuple[Any, Any]
    """To a student, without figures: better, and worse."""
    least: float | None = None
    most: float | None = None

    def value(self, figures: TakeFigures) -> tuple[float, float] | None:
        """Return a take's value with its standard error, or None."""
        match self.key:
            case "steadiness":
                return _pair(figures.spread_ms, figures.spread_error)
            case "lead":
                return _pair(None if figures.bias_ms is None else abs(figures.bias_ms), figures.bias_error)
            case "notes":
                return figures.right_percent, figures.right_error
            case "dynamics":
                return _pair(figures.dynamics, 0.0)
            case _:
                return figures.tempo_percent, 0.0


def _pair(value: float | None, error: float | None) -> tuple[float, float] | None:
    return None if value is None else (value, error or 0.0)


MEASURES = (
    Measure(key="steadiness", name=gettext_lazy("Steadiness"), unit="ms", is_lower_better=True, least=0.0, most=40.0,
            better=gettext_lazy("Steadier by %(size)s"), worse=gettext_lazy("Less steady by %(size)s"),
            brief=(gettext_lazy("Your beat got clearly steadier over %(n)s takes."), gettext_lazy("Your beat got less steady over %(n)s takes."))),
    Measure(key="lead", name=gettext_lazy("Distance from the click"), unit="ms", is_lower_better=True, least=0.0, most=40.0,
            better=gettext_lazy("Nearer to the click by %(size)s"), worse=gettext_lazy("Further from the click by %(size)s"),
            brief=(gettext_lazy("You got closer to the click over %(n)s takes."), gettext_lazy("You got further from the click over %(n)s takes."))),
    Measure(key="notes", name=gettext_lazy("Notes right"), unit="%", is_lower_better=False, most=100.0, least=80.0,
            better=gettext_lazy("More notes right, by %(size)s"), worse=gettext_lazy("Fewer notes right, by %(size)s"),
            brief=(gettext_lazy("You got more notes right over %(n)s takes."), gettext_lazy("You got fewer notes right over %(n)s takes."))),
    Measure(key="dynamics", name=gettext_lazy("Dynamics"), unit=gettext_lazy("points"), is_lower_better=False, most=100.0, least=60.0,
            better=gettext_lazy("Dynamics better by %(size)s"), worse=gettext_lazy("Dynamics weaker by %(size)s"),
            brief=(gettext_lazy("Your dynamics got better over %(n)s takes."), gettext_lazy("Your dynamics got weaker over %(n)s takes."))),
    Measure(key="tempo", name=gettext_lazy("Tempo reached"), unit="%", is_lower_better=False, least=60.0, most=100.0,
            better=gettext_lazy("Faster by %(size)s of the set tempo"), worse=gettext_lazy("Slower by %(size)s of the set tempo"),
            brief=(gettext_lazy("You got faster over %(n)s takes."), gettext_lazy("You got slower over %(n)s takes."))),
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendText:
    """A trend in words, with its size against chance. `tone`: well, wrong or plain."""

    text: str
    brief: str
    """The same to a student, without figures."""
    tone: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Followed:
    """One measure over the takes: its picture, what is said of each exercise and of all, its table."""

    measure: Measure
    course: Course
    by_exercise: tuple[tuple[str, TrendText], ...]
    over_all: TrendText
    unit: Any


@dataclass(frozen=True, slots=True, kw_only=True)
class BestTake:
    title: str
    take: Take
    takes: int
    shows_mark: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class StudentProgress:
    followed: tuple[Followed, ...]
    best: tuple[BestTake, ...]
    takes: int
    minutes: float
    """Recorded, as far as the parts were played."""
    loops: int
    """Loops of rungs played while practising."""


def measured_takes(takes: QuerySet[Take]) -> list[tuple[Take, TakeFigures]]:
    """Return the takes in order of recording, without events and measurements.

    Answers without playing are left out.
    """
    light = (
        takes.filter(judgement__isnull=False)
        .exclude(source=Source.NONE)
        .select_related("assignment__exercise", "judgement__measurement", "sheet")
        .defer(
            "events", "judgement__measurement__facts", "judgement__scores", "assignment__exercise__backing"
        )
        .order_by("assignment__given_at", "assignment_id", "recorded_at", "number")
    )
    return [
        (take, TakeFigures.from_json(take.judgement.measurement.figures))
        for take in light
        if take.judgement is not None and take.judgement.measurement.figures
    ]


def student_progress(reader: User, student: User, *, assignment: Assignment | None = None) -> StudentProgress:
    """Return a student's progress as a reader may see it. Teachers see what was handed in to their classes."""
    takes = Take.objects.filter(school=reader.school_id, student=student, deleted_at__isnull=True)
    climbed = RungClimbed.objects.filter(student=student, assignment__school=reader.school_id)
    if reader.pk != student.pk:
        seen = visible_assignments(reader)
        takes = takes.filter(handed_in_at__isnull=False, assignment__in=seen)
        climbed = climbed.filter(assignment__in=seen)
    if assignment is not None:
        takes, climbed = takes.filter(assignment=assignment), climbed.filter(assignment=assignment)
    measured = measured_takes(takes)
    return StudentProgress(
        followed=tuple(_follow(measure, measured) for measure in MEASURES),
        best=_best(reader, measured),
        takes=len(measured),
        minutes=sum(figures.seconds for _, figures in measured) / MINUTE_S,
        loops=sum(len(points) for points in climbed.values_list("points", flat=True)),
    )


def _groups(measured: Sequence[tuple[Take, TakeFigures]]) -> dict[str, list[tuple[Take, TakeFigures]]]:
    groups: dict[str, list[tuple[Take, TakeFigures]]] = {}
    for take, figures in measured:
        groups.setdefault(take.assignment.exercise.title, []).append((take, figures))
    return groups


def _best_of(takes: Sequence[tuple[Take, TakeFigures]]) -> Take:
    """The take with the most notes right; of as many, the steadiest."""

    def merit(pair: tuple[Take, TakeFigures]) -> tuple[float, float]:
        _, figures = pair
        return figures.right_percent, -math.inf if figures.spread_ms is None else -figures.spread_ms

    return max(takes, key=merit)[0]


def _best(reader: User, measured: Sequence[tuple[Take, TakeFigures]]) -> tuple[BestTake, ...]:
    best = []
    for title, takes in _groups(measured).items():
        take = _best_of(takes)
        sheet = getattr(take, "sheet", None)
        shows = sheet is not None and (reader.is_teacher or sheet.is_released)
        best.append(BestTake(title=title, take=take, takes=len(takes), shows_mark=shows))
    return tuple(best)


def trend_of(measure: Measure, takes: Sequence[tuple[Take, TakeFigures]]) -> tuple[Trend | None, int]:
    values = [pair for _, figures in takes if (pair := measure.value(figures)) is not None]
    return trend([value for value, _ in values], [error for _, error in values]), len(values)


def _follow(measure: Measure, measured: Sequence[tuple[Take, TakeFigures]]) -> Followed:
    groups = _groups(measured)
    best = {title: _best_of(takes) for title, takes in groups.items()}
    trends = {title: trend_of(measure, takes) for title, takes in groups.items()}
    values = []
    for title, takes in groups.items():
        with_figure = [
            (take, pair) for take, figures in takes if (pair := measure.value(figures)) is not None
        ]
        values += [
            CourseValue(
                group=title, name=_("take %(n)s, %(day)s") % {"n": take.number, "day": f"{take.recorded_at:%d.%m.}"},
                value=value, error=error, is_best=take is best[title],
            )
            for take, (value, error) in with_figure
        ]  # fmt: skip
    return Followed(
        measure=measure,
        course=course(
            values,
            {title: trend for title, (trend, _) in trends.items()},
            least=measure.least, most=measure.most, lower_is_up=measure.is_lower_better,
        ),
        by_exercise=tuple((title, describe_trend(measure, *trends[title])) for title in groups),
        over_all=describe_trend(measure, *trend_of(measure, measured)),
        unit=str(measure.unit),
    )  # fmt: skip


def describe_trend(measure: Measure, trend: Trend | None, takes: int) -> TrendText:
    """Return a change in words, with its size and the size that chance alone would make.

    A change within chance is not called one.
    """
    if trend is None:
        text = ngettext(
            "One measured take so far; at least %(least)s takes are needed to show a trend.",
            "%(n)s measured takes so far; at least %(least)s takes are needed to show a trend.", takes,
        )  # fmt: skip
        waiting = text % {"n": takes, "least": MIN_TAKES}
        return TrendText(text=waiting, brief=waiting, tone="plain")
    unit = str(measure.unit)
    sizes = {
        "size": f"{abs(trend.change):.0f} {unit}", "change": f"{trend.change:+.0f} {unit}".replace("-", "−"),
        "chance": f"{trend.chance:.0f} {unit}", "n": trend.takes, "first": f"{trend.first:.0f}", "last": f"{trend.last:.0f}",
    }  # fmt: skip
    if round(trend.change) == 0 and round(trend.chance) == 0:
        unchanged = _("Unchanged over %(n)s takes, at %(last)s.") % sizes
        return TrendText(text=unchanged, brief=_("About the same as before."), tone="plain")
    if not trend.is_change:
        return TrendText(
            text=_(
                "No clear change: %(change)s over %(n)s takes; a change within ±%(chance)s is normal variation."
            )
            % sizes,
            brief=_("About the same as before."),
            tone="plain",
        )
    is_better = (trend.change < 0) is measure.is_lower_better
    change = str(measure.better if is_better else measure.worse) % sizes
    message = _(
        "%(what)s over %(n)s takes: the trend runs from %(first)s to %(last)s; a change within ±%(chance)s is normal variation."
    )
    return TrendText(
        text=message % {**sizes, "what": change},
        brief=str(measure.brief[0 if is_better else 1]) % sizes,
        tone="well" if is_better else "wrong",
    )
