"""The sustain pedal as lines under the staves: as it is written, and under that as it was played."""

from collections.abc import Sequence
from dataclasses import dataclass

from ear.drawing.rows import RowBox
from ear.notes import PedalMark

LINE_HEIGHT = 14.0
"""Of a line with its hooks, in px."""
HOOK = 6.0
"""How far a hook rises, and half the width of the notch of a change."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PedalLine:
    """A stretch in a row: from `x` to `right` at `y`, with a hook at each end that is its own, and a notch
    where it is changed instead of lifted."""

    x: float
    right: float
    y: float
    opens: bool
    closes: bool
    begins_by_change: bool
    ends_by_change: bool

    @property
    def path(self) -> str:
        """As SVG draws it."""
        start = f"M{self.x:.1f} {self.y:.1f}"
        if self.begins_by_change:
            start = f"M{self.x:.1f} {self.y - HOOK:.1f}L{self.x + HOOK:.1f} {self.y:.1f}"
        elif self.opens:
            start = f"M{self.x:.1f} {self.y - HOOK:.1f}V{self.y:.1f}"
        if self.ends_by_change:
            return f"{start}H{self.right - HOOK:.1f}L{self.right:.1f} {self.y - HOOK:.1f}"
        return f"{start}H{self.right:.1f}" + (f"V{self.y - HOOK:.1f}" if self.closes else "")


def pedal_lines(marks: Sequence[PedalMark], box: RowBox, *, y: float) -> tuple[PedalLine, ...]:
    """Return the lines of the written pedal that fall into a row."""
    starts, ends = {m.start_tick for m in marks}, {m.end_tick for m in marks}
    return tuple(
        PedalLine(
            x=box.x(max(mark.start_tick, box.start_tick)),
            right=box.x(mark.end_tick) if mark.end_tick <= box.end_tick else box.right,
            y=y,
            opens=mark.start_tick >= box.start_tick,
            closes=mark.end_tick <= box.end_tick,
            begins_by_change=mark.start_tick >= box.start_tick and mark.start_tick in ends,
            ends_by_change=mark.end_tick <= box.end_tick and mark.end_tick in starts,
        )
        for mark in marks
        if mark.start_tick < box.end_tick and mark.end_tick > box.start_tick
    )


def played_lines(spans: Sequence[tuple[float, float]], box: RowBox, *, y: float) -> tuple[PedalLine, ...]:
    """Return the lines of the played pedal, in ticks of the part, that fall into a row. They have no hooks."""
    return tuple(
        PedalLine(
            x=box.x(max(start, box.start_tick)), right=min(box.x(min(end, box.end_tick)), box.right), y=y,
            opens=False, closes=False, begins_by_change=False, ends_by_change=False,
        )
        for start, end in spans
        if start < box.end_tick and end > box.start_tick
    )  # fmt: skip
