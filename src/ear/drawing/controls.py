"""Pedal and wheels as they were played, in places of the part."""

from collections.abc import Callable

from ear.drawing.boxes import Overlay
from ear.drawing.rows import BAR_LINE_SLACK_TICKS
from ear.drawing.verdicts import tick_of_second
from ear.notes import Part
from ear.notes.controls import UNUSED, ControlLines, Controls, Moves, control_lines


def played_controls(part: Part, overlay: Overlay) -> ControlLines:
    """Return pedal and wheels of a take in ticks of the part, each moment by the linked note nearest in time."""
    played = control_lines(overlay.take)
    if played == UNUSED:
        return UNUSED
    tick = tick_of_second(part, overlay)
    return ControlLines(
        pedal=tuple((tick(down), tick(up)) for down, up in played.pedal),
        bend=_moved(played.bend, tick),
        modulation=_moved(played.modulation, tick),
    )


def _moved(moves: Moves, tick: Callable[[float], float]) -> tuple[tuple[float, float], ...]:
    return tuple(sorted(((tick(at), position) for at, position in moves), key=lambda move: move[0]))


def controls_by_bars(part: Part, controls: ControlLines) -> dict[tuple[int, int], Controls]:
    """Return how pedal and wheels were used, by first and last bar of stretches in which the use is alike.

    What crosses a bar line by less than BAR_LINE_SLACK_TICKS belongs to the other bar. Bars without use are left out.
    """
    stretches: dict[tuple[int, int], Controls] = {}
    for bar in part.bars if controls != UNUSED else ():
        use = controls.between(bar.start_tick + BAR_LINE_SLACK_TICKS, bar.end_tick - BAR_LINE_SLACK_TICKS)
        first, last = next(reversed(stretches), (None, None))
        if not use:
            continue
        if first is not None and last == bar.number - 1 and stretches[first, last] == use:
            del stretches[first, last]
            stretches[first, bar.number] = use
        else:
            stretches[bar.number, bar.number] = use
    return stretches
