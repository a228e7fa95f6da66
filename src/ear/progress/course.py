"""A figure from take to take as a small picture."""

from collections.abc import Sequence
from dataclasses import dataclass
from string import ascii_uppercase

from ear.progress.trend import Trend

WIDTH, HEIGHT = 860.0, 170.0
LEFT, RIGHT, TOP, FOOT = 44.0, 10.0, 12.0, 20.0
LETTER_WIDTH = 7.0
"""Of the names under the picture, in its units, on average."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CoursePoint:
    """A take's figure; `error` draws a line over what chance alone would make of it."""

    x: float
    y: float
    top: float
    bottom: float
    value: float
    group: str
    name: str
    is_best: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CourseGroup:
    """Takes of one exercise, side by side."""

    name: str
    label: str
    """The name where all names fit under their groups; else a letter."""
    x: float
    """Where it begins."""
    line: tuple[float, float, float, float] | None
    """Its trend, where that is more than chance: x and y of both ends."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A line of the scale: its height in px and its value."""

    y: float
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Course:
    """A figure over time, laid out to be drawn."""

    points: tuple[CoursePoint, ...]
    groups: tuple[CourseGroup, ...]
    ticks: tuple[Tick, ...]
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT

    @property
    def key(self) -> tuple[CourseGroup, ...]:
        """Groups whose names stand beside the picture, since they do not fit under it."""
        return tuple(group for group in self.groups if group.label != group.name)


@dataclass(frozen=True, slots=True, kw_only=True)
class CourseValue:
    """One take, in order of time within its group."""

    group: str
    name: str
    value: float
    error: float = 0.0
    is_best: bool = False


def course(values: Sequence[CourseValue], trends: dict[str, Trend | None], *, least: float | None = None,
           most: float | None = None, lower_is_up: bool = False) -> Course:  # fmt: skip
    """Return the picture of all takes from left to right.

    Better is higher up if `lower_is_up` says which way that is.

    `least` and `most` widen the scale to these at least. No values give an empty picture.
    """
    if not values:
        return Course(points=(), groups=(), ticks=())
    low = min([v.value for v in values] + ([] if least is None else [least]))
    high = max([v.value for v in values] + ([] if most is None else [most]))
    if high - low < 1e-9:
        low, high = low - 1.0, high + 1.0
    step = (WIDTH - LEFT - RIGHT) / len(values)

    def y(value: float) -> float:
        share = (min(high, max(low, value)) - low) / (high - low)
        return TOP + (HEIGHT - TOP - FOOT) * (share if lower_is_up else 1.0 - share)

    points, groups = [], []
    begins: dict[str, list[float]] = {}
    for k, v in enumerate(values):
        x = LEFT + (k + 0.5) * step
        begins.setdefault(v.group, []).append(x)
        ends = sorted((y(v.value - v.error), y(v.value + v.error)))
        points.append(
            CoursePoint(
                x=x, y=y(v.value), top=ends[0], bottom=ends[1], value=v.value, group=v.group, name=v.name,
                is_best=v.is_best,
            )
        )  # fmt: skip
    fits = all(len(name) * LETTER_WIDTH <= len(xs) * step - LETTER_WIDTH for name, xs in begins.items())
    for number, (name, xs) in enumerate(begins.items()):
        label = name if fits or len(begins) == 1 else _letters(number)
        trend = trends.get(name)
        line = (xs[0], y(trend.first), xs[-1], y(trend.last)) if trend and trend.is_change else None
        groups.append(CourseGroup(name=name, label=label, x=xs[0] - step / 2, line=line))
    return Course(
        points=tuple(points),
        groups=tuple(groups),
        ticks=tuple(Tick(y=y(value), value=value) for value in (low, (low + high) / 2, high)),
    )


def _letters(number: int) -> str:
    """A to Z, then AA and so on."""
    letters = ""
    while number >= 0:
        number, letter = divmod(number, len(ascii_uppercase))
        letters, number = ascii_uppercase[letter] + letters, number - 1
    return letters
