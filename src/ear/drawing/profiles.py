"""Profiles as small pictures: where in the bar, in which bars, lanes or hands notes come early or late."""

from collections.abc import Sequence
from dataclasses import dataclass

PROFILE_WIDTH = 288.0
PROFILE_HEIGHT = 74.0
FOOT = 16.0
"""px under the picture for the names of places."""
SIDE = 14.0
MIN_MS = 40.0
"""The picture shows this much either way at least, so that a steady take looks steady."""
SHOWN_WINDOWS = 3.0
"""Deviations beyond so many full windows stand at the edge."""
IN_TIME = "in_time"
NAME_WIDTH = 7.0
"""px that a letter of a place's name takes at most."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceFigures:
    """Deviations at one place; `spread_ms` is 1.4826 x median absolute deviation."""

    name: str
    count: int
    median_ms: float
    """As it is judged: what is forgiven taken off."""
    spread_ms: float
    state: str = IN_TIME
    """`in_time`, or what most of its notes lost credit for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfilePoint:
    """A place: a dot at its median, a line over its spread. Early lies above the middle line."""

    figures: PlaceFigures
    x: float
    y: float
    top: float
    bottom: float
    state: str
    shows_name: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnProfile:
    """One picture; y of its line of no deviation, half the height of the full window's band."""

    points: tuple[ProfilePoint, ...]
    line_y: float
    band_half: float
    width: float = PROFILE_WIDTH
    height: float = PROFILE_HEIGHT


def profile(places: Sequence[PlaceFigures], *, full_ms: float) -> DrawnProfile:
    """Return a profile with its places from left to right. Without places the picture is empty."""
    half = (PROFILE_HEIGHT - FOOT) / 2.0
    furthest = max((abs(p.median_ms) + p.spread_ms for p in places), default=0.0)
    reach_ms = max(MIN_MS, full_ms, min(furthest, SHOWN_WINDOWS * full_ms))
    per_ms = (half - 3.0) / reach_ms

    def y(ms: float) -> float:
        return half + max(-reach_ms, min(reach_ms, ms)) * per_ms

    step = (PROFILE_WIDTH - 2 * SIDE) / max(1, len(places))
    widest = max((len(p.name) for p in places), default=1) * NAME_WIDTH
    every = max(1, -int(-widest // step))
    points = []
    for k, place in enumerate(places):
        points.append(
            ProfilePoint(
                figures=place,
                x=SIDE + (k + 0.5) * step,
                y=y(place.median_ms),
                top=y(place.median_ms - place.spread_ms),
                bottom=y(place.median_ms + place.spread_ms),
                state=place.state,
                shows_name=k % every == 0,
            )
        )
    return DrawnProfile(points=tuple(points), line_y=half, band_half=min(full_ms, reach_ms) * per_ms)
