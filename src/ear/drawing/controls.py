"""Pedal and wheels as they were played, in places of the part."""

from collections.abc import Callable

from ear.drawing.boxes import Overlay
from ear.drawing.rows import BAR_LINE_SLACK_TICKS
from ear.drawing.verdicts import tick_of_second
from ear.notes import Part
from ear.notes.controls import ControlLines, Controls, Moves, control_lines


def played_controls(part: Part, overlay: Overlay) -> ControlLines:
    """Return pedal and wheels of a take in ticks of the part, each moment by the linked note nearest in time."""
    tick = tick_of_second(part, overlay)
    played = control_lines(overlay.take)
    return ControlLines(
        pedal=tuple((tick(down), tick(up)) for down, up in played.pedal),
        bend=_moved(played.bend, tick),
        modulation=_moved(played.modulation, tick),
    )


def _moved(moves: Moves, tick: Callable[[float], float]) -> tuple[tuple[float, float], ...]:
    return tuple(sorted(((tick(at), position) for at, position in moves), key=lambda move: move[0]))


def controls_by_bar(part: Part, controls: ControlLines) -> dict[int, Controls]:
    """Return the use of pedal and wheels in each bar in which there is any, by the bar's number.

    What crosses a bar line by less than BAR_LINE_SLACK_TICKS belongs to the other bar.
    """
    used = {
        bar.number: controls.between(
            bar.start_tick + BAR_LINE_SLACK_TICKS, bar.end_tick - BAR_LINE_SLACK_TICKS
        )
        for bar in part.bars
    }
    return {number: use for number, use in used.items() if use}


def controls_by_bars(part: Part, controls: ControlLines) -> dict[tuple[int, int], Controls]:
    """Return the same for first and last bar of stretches in which it is alike."""
    stretches: dict[tuple[int, int], Controls] = {}
    for number, use in controls_by_bar(part, controls).items():
        first, last = next(reversed(stretches), (0, 0))
        if last and last == number - 1 and stretches[first, last] == use:
            del stretches[first, last]
            stretches[first, number] = use
        else:
            stretches[number, number] = use
    return stretches
