"""Stretches that are written an octave or two nearer to their staff, under a line that says so.

Beyond four ledger lines a reader counts. The line begins where a chord has more of them and goes on while the music stays
beyond the staff; all voices of the staff are written under it.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import NamedTuple

from ear.notation.written_notes import Written, WrittenNote

OCTAVE_STEPS = 7
TOP_STEP = 8
"""Of a staff's top line, over its bottom line."""
MAX_BEYOND = 9
"""Steps beyond the outer line that four ledger lines, and a note on the far side of the last, take."""
NEARLY_BEYOND = 6
"""Steps beyond the outer line from which a note goes with others under their line."""
MAX_BETWEEN = 3
"""Chords nearer to the staff over which a line goes on."""
MAX_OCTAVES = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class OctaveLine:
    """From one chord to another, by their ticks, so many octaves: 1 and 2 sound above what is written, -1 and -2 below."""

    staff: int
    octaves: int
    first_tick: int
    last_tick: int
    end_tick: int
    """Where the last chord ends."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Moment:
    """What begins together on one staff."""

    tick: int
    end_tick: int
    above: int
    """By how many steps its lowest note stands over the top line; negative below it."""
    most_above: int
    below: int
    most_below: int


def octave_lines(voices: Sequence[Sequence[Written]], *, staff: int, bottom_step: int) -> list[OctaveLine]:
    """Return the lines of one staff, whose voices are given from the first bar to the last."""
    chords = sorted(
        (written for voice in voices for written in voice if written.heads), key=lambda written: written.tick
    )
    moments = []
    for tick, together in groupby(chords, key=lambda written: written.tick):
        struck = list(together)
        steps = [head.step - bottom_step for written in struck for head in written.heads]
        moments.append(
            _Moment(
                tick=tick, end_tick=max(w.end_tick for w in struck), above=min(steps) - TOP_STEP,
                most_above=max(steps) - TOP_STEP, below=-max(steps), most_below=-min(steps),
            )
        )  # fmt: skip
    above = [_Reach(m.tick, m.end_tick, m.above + TOP_STEP, m.most_above) for m in moments]
    below = [_Reach(m.tick, m.end_tick, m.below + TOP_STEP, m.most_below) for m in moments]
    return [*_lines(above, staff, sign=1), *_lines(below, staff, sign=-1)]


class _Reach(NamedTuple):
    tick: int
    end_tick: int
    nearest: int
    """Of its nearest note, steps over the staff's line on the other side."""
    furthest: int
    """Of its furthest note, steps beyond the outer line."""


def _octaves(run: Sequence[_Reach]) -> int | None:
    """By how many octaves a run is moved; None if that would take some of it beyond the other side of the staff."""
    far = max(reach.furthest for reach in run)
    octaves = min(MAX_OCTAVES, -(-(far - MAX_BEYOND) // OCTAVE_STEPS))
    return octaves if min(reach.nearest for reach in run) >= octaves * OCTAVE_STEPS else None


def _lines(reaches: Sequence[_Reach], staff: int, *, sign: int) -> list[OctaveLine]:
    lines: list[OctaveLine] = []
    taken = -1
    for k, reach in enumerate(reaches):
        if k <= taken or reach.furthest <= MAX_BEYOND or _octaves((reach,)) is None:
            continue
        first = last = k
        # What is nearly as far goes with it, and so does what lies between: a line is not broken for a note or two.
        while (
            first - 1 > taken
            and reaches[first - 1].furthest >= NEARLY_BEYOND
            and _octaves(reaches[first - 1 : last + 1])
        ):
            first -= 1
        until = k
        while (
            until + 1 < len(reaches) and until - last <= MAX_BETWEEN and _octaves(reaches[first : until + 2])
        ):
            until += 1
            if reaches[until].furthest >= NEARLY_BEYOND:
                last = until
        octaves = _octaves(reaches[first : last + 1])
        assert octaves is not None
        taken = last
        lines.append(
            OctaveLine(
                staff=staff, octaves=sign * octaves, first_tick=reaches[first].tick, last_tick=reaches[last].tick,
                end_tick=reaches[last].end_tick,
            )
        )  # fmt: skip
    return lines


def under_lines(voice: Sequence[Written], lines: Sequence[OctaveLine]) -> tuple[Written, ...]:
    """Return a voice with its heads written where the lines of its staff have them."""

    def moved(written: Written) -> Written:
        line = next((each for each in lines if each.first_tick <= written.tick < each.end_tick), None)
        if line is None or not written.heads:
            return written
        return replace(written, heads=tuple(_moved(head, line.octaves) for head in written.heads))

    return tuple(map(moved, voice)) if lines else tuple(voice)


def _moved(head: WrittenNote, octaves: int) -> WrittenNote:
    return replace(head, octaves=octaves)
