"""Drift and Weight strips: deviation and velocity under each row of music."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from ear.criteria.levels import Window
from ear.criteria.score import LossReason
from ear.drawing.rows import RowBox
from ear.notes import KitMap, Note, Part, place_of

DRIFT_HALF = 30.0
"""px above and below the line for keyboards."""
DRIFT_LANE_HALF = 18.0
EDGE = 3.0
"""px kept free at the strip's edge."""
SHOWN_OF_FULL = 2.2
"""The strip shows deviations up to so many times the full window, which makes 20 ms plain to see;
further ones stand at the edge."""
WEIGHT_HEIGHT = 30.0
SAME_ONSET_PX = 3.0
"""Bars of one moment are set apart by this much."""
LANES_SHOWN = 5


class Deviating(Protocol):
    """What a strip needs to know of a played row."""

    @property
    def target(self) -> int | None:
        """The note of the target, by index."""

    @property
    def take(self) -> int | None:
        """The note of the take, by index."""

    @property
    def judged_ms(self) -> float | None:
        """How far off, in ms, as the mark sees it."""

    @property
    def time(self) -> LossReason | None:
        """Why the time costs what it costs."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DriftMark:
    """A note's deviation, above its line if early, below if late."""

    x: float
    y: float
    line_y: float
    state: str
    """`in_time`, `early`, `late` or `beside`: by the credit that it lost, never by the picture."""
    is_over: bool
    """Further off than the strip shows."""
    target: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DriftLine:
    """A line of no deviation, with the band of full credit about it."""

    label: str
    y: float
    band_half: float
    """Half the height of the full window's band."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DriftStrip:
    """Deviations under one row."""

    top: float
    bottom: float
    lines: tuple[DriftLine, ...]
    marks: tuple[DriftMark, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class WeightBar:
    """Played velocity as a bar, the written one as a tick; either may be missing (None)."""

    x: float
    played_y: float | None
    written_y: float
    state: str
    """`soft` or `loud` where the note lost credit for it; else empty."""
    note: int
    """The target note, by index in its row."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WeightStrip:
    """Strengths under one row."""

    top: float
    bottom: float
    bars: tuple[WeightBar, ...]


def drift_strip(
    part: Part,
    window: Window,
    box: RowBox,
    linked: Sequence[tuple[Note, Deviating]],
    *,
    top: float,
    kit: KitMap,
) -> DriftStrip:
    """Return the Drift strip: each linked note at its written place, above the line if early, below if late."""
    labels = _lanes(part, kit) if part.instrument.has_lanes else [""]
    half = DRIFT_HALF if len(labels) == 1 else DRIFT_LANE_HALF
    per_ms = (half - EDGE) / (SHOWN_OF_FULL * window.full_ms)
    lines = [
        DriftLine(label=label, y=top + half + 2 * half * k, band_half=window.full_ms * per_ms)
        for k, label in enumerate(labels)
    ]
    marks = []
    for note, row in linked:
        if row.judged_ms is None or row.take is None or row.target is None:
            continue
        lane = kit.lane(note.pitch).name if part.instrument.has_lanes else ""
        line = lines[labels.index(lane) if lane in labels else len(labels) - 1]
        judged = row.judged_ms
        reach = half - EDGE
        offset = max(-reach, min(reach, judged * per_ms))
        marks.append(
            DriftMark(
                x=box.x(note.onset_tick),
                y=line.y + offset,
                line_y=line.y,
                state=row.time if row.time else "in_time",
                is_over=abs(judged * per_ms) > reach,
                target=row.target,
            )
        )
    return DriftStrip(top=top, bottom=top + 2 * half * len(labels), lines=tuple(lines), marks=tuple(marks))


def _lanes(part: Part, kit: KitMap) -> list[str]:
    """Lanes that the part uses, from the top of the staff; the least used share the last line."""
    used = {kit.lane(n.pitch).name: kit.lane(n.pitch) for n in part.notes}
    count = {name: sum(kit.lane(n.pitch).name == name for n in part.notes) for name in used}
    most = sorted(used, key=lambda name: -count[name])[:LANES_SHOWN]
    return sorted(most, key=lambda name: -used[name].staff_step) or [""]


def weight_strip(
    box: RowBox, written: Sequence[Note], sounded: Sequence[tuple[Note, int, str]], *, top: float
) -> WeightStrip:
    """Return the Weight strip: the velocities of a row, with the notes of one moment side by side.

    `sounded` are the notes with the velocity played and the state to draw.
    """
    velocity = {place_of(n): (v, state) for n, v, state in sounded}
    bottom = top + WEIGHT_HEIGHT

    def height(value: int) -> float:
        return bottom - value / 127 * WEIGHT_HEIGHT

    bars = []
    at_tick: dict[int, int] = {}
    for n, note in enumerate(written):
        k = at_tick.get(note.onset_tick, 0)
        at_tick[note.onset_tick] = k + 1
        played, state = velocity.get(place_of(note), (None, ""))
        bars.append(
            WeightBar(
                x=box.x(note.onset_tick) + k * SAME_ONSET_PX,
                played_y=None if played is None else height(played),
                written_y=height(note.velocity),
                state=state,
                note=n,
            )
        )
    return WeightStrip(top=top, bottom=bottom, bars=tuple(bars))
