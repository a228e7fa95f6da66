"""The bend and modulation wheels as they were played: strips under the staves."""

from bisect import bisect_left
from collections import defaultdict
from dataclasses import dataclass
from enum import StrEnum

from ear.drawing.rows import BAR_LINE_SLACK_TICKS, RowBox
from ear.notes.controls import ControlLines, Moves, reach

WHEEL_HALF = 8.0
"""px from the bend wheel's rest to either end of its way; modulation rises twice as far from its foot."""
WHEEL_GAP = 6.0
MIN_STEP_PX = 1.0
"""Moves nearer together than this are drawn as one, the furthest from rest."""


class Wheel(StrEnum):
    """A wheel that is drawn."""

    BEND = "bend"
    MODULATION = "modulation"


@dataclass(frozen=True, slots=True, kw_only=True)
class WheelStrip:
    """A wheel's way through one row of bars."""

    wheel: Wheel
    top: float
    bottom: float
    rest_y: float
    path: str
    """As SVG draws it: a step for each move."""


def wheel_strips(controls: ControlLines, box: RowBox, *, top: float) -> tuple[WheelStrip, ...]:
    """Return a strip for each wheel that left its rest in a row, one under the other."""
    strips: list[WheelStrip] = []
    for wheel, moves in ((Wheel.BEND, controls.bend), (Wheel.MODULATION, controls.modulation)):
        first, last = box.start_tick + BAR_LINE_SLACK_TICKS, box.end_tick - BAR_LINE_SLACK_TICKS
        if not any(reach(moves, first, last)):
            continue
        bottom = top + 2 * WHEEL_HALF
        rest_y, way_px = (top + WHEEL_HALF, WHEEL_HALF) if wheel is Wheel.BEND else (bottom, 2 * WHEEL_HALF)
        strips.append(
            WheelStrip(
                wheel=wheel,
                top=top,
                bottom=bottom,
                rest_y=rest_y,
                path=_path(moves, box, rest_y=rest_y, way_px=way_px),
            )
        )
        top = bottom + WHEEL_GAP
    return tuple(strips)


def _path(moves: Moves, box: RowBox, *, rest_y: float, way_px: float) -> str:
    begun = bisect_left(moves, float(box.start_tick), key=lambda move: move[0])
    ended = bisect_left(moves, float(box.end_tick), key=lambda move: move[0])
    columns: dict[int, list[float]] = defaultdict(list)
    for tick, position in moves[begun:ended]:
        columns[round(box.x(tick) / MIN_STEP_PX)].append(position)
    before = moves[begun - 1][1] if begun else 0.0
    path = [f"M{box.x(box.start_tick):.1f} {rest_y - before * way_px:.1f}"]
    for column, positions in columns.items():
        path.append(f"H{column * MIN_STEP_PX:.1f}")
        # A wheel that springs back within one column shows its peak, and then where it stays.
        ways = {max(positions, key=abs): None, positions[-1]: None}
        path += [f"V{rest_y - position * way_px:.1f}" for position in ways]
    return "".join([*path, f"H{box.right:.1f}"])
