"""Which notes share a beam."""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby

from ear.notation.written_notes import Written
from ear.notes import Bar
from ear.units import TICKS_PER_QUARTER

MIN_BEAM = 8
"""Eighths and shorter have beams."""
_Key = tuple[int, int]
NO_BEAM: _Key = (0, 0)


def beamed(line: Sequence[Written], bar: Bar) -> list[Written]:
    """Return a voice of a bar with numbers for what is beamed together: short values of one beat, in four-four and its kin
    eighths of half a bar, in a tuplet that is longer than a beat all of it.
    """
    meter = bar.meter
    starts = meter.beat_starts
    if meter.is_regular and meter.beat_ticks < TICKS_PER_QUARTER:
        # Quavers that are beats themselves: three of them, or two and two.
        starts = starts[:: 3 if meter.beats % 3 == 0 else 2]
    is_long = meter.is_regular and meter.beat_ticks == TICKS_PER_QUARTER and meter.beats % 2 == 0

    def beat_of(written: Written) -> int:
        return bisect_right(starts, written.tick - bar.start_tick) - 1

    keys: list[_Key] = [NO_BEAM] * len(line)
    for half, inside in groupby(range(len(line)), key=lambda k: beat_of(line[k]) // 2 if is_long else -1):
        members = list(inside)
        only_eighths = half >= 0 and all(_is_plain_eighth(line[k]) for k in members)
        for k in members:
            keys[k] = (1 + (half * 2 if only_eighths else beat_of(line[k])), 0)
    for k, written in enumerate(line):
        if written.tuplet is not None and written.tuplet.ticks > max(meter.beat_ticks, TICKS_PER_QUARTER):
            keys[k] = (-1, written.tuplet.start)
        if written.is_rest or written.value.base < MIN_BEAM:
            keys[k] = NO_BEAM
    # A beam holds a tuplet whole, or lies within it.
    for tuplet, inside in groupby(range(len(line)), key=lambda k: line[k].tuplet):
        members = list(inside)
        if tuplet is not None and (len({keys[k] for k in members}) > 1 or keys[members[0]] == NO_BEAM):
            for k in members:
                keys[k] = NO_BEAM if keys[k] == NO_BEAM else (-2 - keys[k][0], tuplet.start)
    made, number = list(line), 0
    for key, inside in groupby(range(len(line)), key=keys.__getitem__):
        members = list(inside)
        if key != NO_BEAM and len(members) > 1:
            number += 1
            for k in members:
                made[k] = replace(line[k], group=number)
    return _with_brackets(made)


def _is_plain_eighth(written: Written) -> bool:
    value = written.value
    return value.base == MIN_BEAM and not value.dots and written.tuplet is None and not written.is_rest


def _with_brackets(line: Sequence[Written]) -> list[Written]:
    """A tuplet whose notes share one beam, and that has no rest at its ends, needs no bracket."""
    bracketed: list[Written] = []
    for tuplet, inside in groupby(line, key=lambda w: w.tuplet):
        members = list(inside)
        if tuplet is not None:
            groups = {w.group for w in members}
            has_bracket = len(groups) > 1 or groups == {0}
            members = [replace(w, tuplet=replace(tuplet, has_bracket=has_bracket)) for w in members]
        bracketed += members
    return bracketed
