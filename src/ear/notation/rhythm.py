"""Where the tuplets of a voice stand, and the values that show the beats of a bar.

A bar is divided as its metre divides it: into beats, these into halves (a dotted beat into thirds). Each stretch is either
plain or one tuplet. Of all ways in which every onset and end falls on a note of its stretch, the simplest is taken: few
tuplets, none that hides a beat, none that could be a smaller one. Rests and ties follow E. Gould, Behind Bars, 2011.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

from ear.notation.values import (
    FINEST,
    PLAIN_VALUES,
    QUINTUPLET,
    QUINTUPLET_OF_SIX,
    SEPTUPLET,
    SEPTUPLET_OF_SIX,
    SEXTUPLET,
    TRIPLET,
    Ratio,
    Value,
)
from ear.notes import Meter
from ear.units import TICKS_PER_QUARTER

TUPLET_COST = 1.0
HALVED_COST, QUARTERED_COST = 0.2, 2.0
"""What a tuplet costs more whose notes are halved, and halved again."""
HALVED_OVER_BEATS_COST = 2.5
"""What halving costs where a tuplet lasts longer than a beat: it would hide the beat."""
HIDES_BEAT_COST = 3.0
"""What a tuplet over several beats costs where one of them is struck."""
MIN_SPLIT = TICKS_PER_QUARTER // 4
"""The shortest stretch that has a tuplet of its own."""
SUBDIVISIONS = (1, 2, 4)
UNDOTTED = {ticks for ticks, value in PLAIN_VALUES.items() if not value.dots}
DUPLE_RATIOS = (TRIPLET, SEXTUPLET, QUINTUPLET, SEPTUPLET)
DOTTED_RATIOS = (QUINTUPLET_OF_SIX, SEPTUPLET_OF_SIX)

Span = tuple[int, int]
"""A stretch of time within a bar, in ticks from its beginning."""


class Stretch(NamedTuple):
    """A stretch of a bar, in ticks from its beginning; plain, or one tuplet."""

    start: int
    end: int
    ratio: Ratio | None


class Piece(NamedTuple):
    """A note, part of a tied one, or a rest, in ticks from the beginning of the bar."""

    start: int
    end: int
    value: Value
    tuplet: Span | None
    """Where its tuplet begins and ends."""


class _Ways(NamedTuple):
    cost: float
    stretches: tuple[Stretch, ...]


def is_writable(meter: Meter, spans: Iterable[Span]) -> bool:
    """Return whether notes, one after the other, have a rhythm that can be written."""
    return stretches(meter, spans) is not None


def stretches(meter: Meter, spans: Iterable[Span]) -> tuple[Stretch, ...] | None:
    """Return how a bar with these notes of one voice is divided; None if no division holds them all."""
    edges = {tick for span in spans for tick in span}
    if all(tick % FINEST == 0 for tick in edges):
        return (Stretch(0, meter.bar_ticks, None),)
    return _divided(meter, tuple(sorted(edges)))


@lru_cache(maxsize=4096)
def _divided(meter: Meter, edges: tuple[int, ...]) -> tuple[Stretch, ...] | None:
    return _Division(meter, edges).of_bar()


def _is_dotted(length: int) -> bool:
    """Does a stretch divide into three plain ones, as a dotted beat or a bar of three beats does?"""
    return length % 9 == 0


class _Division:
    """Looks for the simplest division of one bar."""

    def __init__(self, meter: Meter, edges: Sequence[int]) -> None:
        self.meter, self.edges = meter, edges

    def of_bar(self) -> tuple[Stretch, ...] | None:
        """Beat after beat, or over several of them."""
        starts = [*self.meter.beat_starts, self.meter.bar_ticks]
        best: list[_Ways | None] = [_Ways(0.0, ())]
        for last in range(1, len(starts)):
            chosen: _Ways | None = None
            for first in range(max(0, last - 4), last):
                before = best[first]
                here = self._beats(starts, first, last) if before is not None else None
                if before is not None and here is not None:
                    chosen = _better(chosen, self._joined((before, here)))
            best.append(chosen)
        whole = best[-1]
        return None if whole is None else whole.stretches

    def _beats(self, starts: Sequence[int], first: int, last: int) -> _Ways | None:
        start, end, count = starts[first], starts[last], last - first
        if count == 1:
            return self._within(start, end)
        is_whole = first == 0 and last == len(starts) - 1
        is_even = len(starts) % 2 == 1
        # Two beats from any where they are uneven, or the halves of a bar, or all of it.
        if not is_whole and (count == 3 or (is_even and first % count)):
            return None
        return self._tuplet(start, end, over_beats=starts[first + 1 : last])

    def _within(self, start: int, end: int) -> _Ways | None:
        """Plain, one tuplet, or divided further."""
        inside = self._edges(start, end)
        if all(tick % FINEST == 0 for tick in inside):
            return _Ways(0.0, (Stretch(start, end, None),))
        chosen = self._tuplet(start, end)
        length = end - start
        parts = 3 if _is_dotted(length) else 2
        if length // parts >= MIN_SPLIT and length % parts == 0:
            cuts = [start + k * length // parts for k in range(parts + 1)]
            divided = [self._within(a, b) for a, b in pairwise(cuts)]
            ways = [way for way in divided if way is not None]
            if len(ways) == parts:
                chosen = _better(chosen, self._joined(ways))
        return chosen

    def _tuplet(self, start: int, end: int, over_beats: Sequence[int] = ()) -> _Ways | None:
        inside = self._edges(start, end)
        length = end - start
        chosen: _Ways | None = None
        for ratio in DOTTED_RATIOS if _is_dotted(length) else DUPLE_RATIOS:
            unit = Fraction(length, ratio.normal)
            for k, parts in enumerate(SUBDIVISIONS):
                if unit / parts not in UNDOTTED:
                    break
                places = note_places(length, ratio, parts)
                if not all(tick - start in places for tick in inside):
                    continue
                cost = TUPLET_COST + (0.0, HALVED_COST, QUARTERED_COST)[k]
                if over_beats:
                    cost += (0.0, HALVED_OVER_BEATS_COST, QUARTERED_COST + HALVED_OVER_BEATS_COST)[k]
                    cost += HIDES_BEAT_COST * sum(beat in inside for beat in over_beats)
                # Six in a row are one sextuplet; what has triplets only in part is two in the time of three.
                if ratio is SEXTUPLET and len(inside) < ratio.notes - 1:
                    cost += HALVED_COST
                chosen = _better(chosen, _Ways(cost, (Stretch(start, end, ratio),)))
                break
        return chosen

    def _joined(self, ways: Sequence[_Ways]) -> _Ways:
        cost, joined = 0.0, list[Stretch]()
        for way in ways:
            cost += way.cost
            for stretch in way.stretches:
                before = joined[-1] if joined else None
                if before is None:
                    joined.append(stretch)
                elif before.ratio is None and stretch.ratio is None:
                    joined[-1] = Stretch(before.start, stretch.end, None)
                else:
                    joined.append(stretch)
        return _Ways(cost, tuple(joined))

    def _edges(self, start: int, end: int) -> list[int]:
        return list(self.edges[bisect_right(self.edges, start) : bisect_left(self.edges, end)])


def _better(chosen: _Ways | None, other: _Ways) -> _Ways:
    return other if chosen is None or other.cost < chosen.cost else chosen


@lru_cache(maxsize=256)
def note_places(length: int, ratio: Ratio, parts: int) -> dict[int, int]:
    """Return the ticks at which the notes of a tuplet stand, halved or not, each with its number."""
    count = ratio.notes * parts
    return {round(Fraction(k * length, count)): k for k in range(count + 1)}


class Ruler:
    """Values for the notes and rests of one voice in one bar."""

    def __init__(self, meter: Meter, spans: Sequence[Span]) -> None:
        self.meter, self.spans = meter, spans
        self.stretches = stretches(meter, spans) or (Stretch(0, meter.bar_ticks, None),)

    def pieces(self, start: int, end: int, *, is_rest: bool) -> list[Piece]:
        """Return a note, or a silence, as values one after the other that show the beats."""
        pieces: list[Piece] = []
        for stretch in self.stretches:
            first, last = max(start, stretch.start), min(end, stretch.end)
            if first >= last:
                continue
            if stretch.ratio is None:
                made = self._rests(first, last) if is_rest else self._notes(first, last)
                pieces += (Piece(a, b, PLAIN_VALUES[Fraction(b - a)], None) for a, b in made)
            else:
                pieces += _in_tuplet(stretch, stretch.ratio, first, last, is_rest=is_rest)
        return pieces

    def _notes(self, start: int, end: int) -> list[Span]:
        made: list[Span] = []
        at = start
        while at < end:
            until = self._until(at, end)
            if until - at not in PLAIN_VALUES:
                # The longest value that fits; the rest follows, tied.
                until = at + int(max((t for t in PLAIN_VALUES if t < until - at), default=Fraction(0)))
            if until == at:
                break
            made.append((at, until))
            at = until
        return made

    def _until(self, at: int, end: int) -> int:
        """How far one value may reach from a place without hiding where the beats are."""
        meter = self.meter
        if not meter.is_regular:
            return self._until_group(at, end)
        beat = meter.beat_ticks
        next_beat = at + beat - at % beat
        if end <= next_beat:
            return end
        if at % beat == 0:
            last_beat = end - end % beat
            return next((tick for tick in (end, last_beat) if tick - at in PLAIN_VALUES), next_beat)
        # An off-beat as long as a beat is the one syncopation that is read at once; longer ones are tied at the beat.
        is_syncopated = at % beat == beat // 2 and end - at == beat and not meter.is_compound
        # The middle of the bar is always shown.
        return end if is_syncopated and next_beat * 2 != meter.bar_ticks else next_beat

    def _until_group(self, at: int, end: int) -> int:
        """Where beats are uneven, a value keeps within one, or fills some of them."""
        starts = [*self.meter.beat_starts, self.meter.bar_ticks]
        next_beat = starts[bisect_right(starts, at)]
        fills = at in starts and end in starts and end - at in PLAIN_VALUES
        return end if fills else min(end, next_beat)

    def _rests(self, start: int, end: int) -> list[Span]:
        """Rests show every beat: none has a dot but one over a whole compound beat, none reaches over a beat but one over
        the first or second half of an even number of beats."""
        made: list[Span] = []
        at = start
        while at < end:
            ticks = self._rest_ticks(at, end)
            if not ticks:
                break
            made.append((at, at + ticks))
            at += ticks
        return made

    def _rest_ticks(self, at: int, end: int) -> int:
        meter = self.meter
        starts = [*meter.beat_starts, meter.bar_ticks]
        first = bisect_right(starts, at) - 1
        beat_start, beat_end = starts[first], starts[first + 1]
        if at == beat_start:
            in_pairs = meter.is_regular and not meter.is_compound and meter.beats % 2 == 0
            longer = [starts[first + 2]] if in_pairs and first % 2 == 0 else []
            for until in (*longer, beat_end):
                if until <= end and until - at in PLAIN_VALUES:
                    return until - at
        into, room = at - beat_start, min(end, beat_end) - at
        fitting = (int(t) for t, v in PLAIN_VALUES.items() if not v.dots and t <= room and into % t == 0)
        return max(fitting, default=0)


def _in_tuplet(stretch: Stretch, ratio: Ratio, start: int, end: int, *, is_rest: bool) -> list[Piece]:
    """Values within a tuplet: from note to note, and over several of them where one value lasts so long."""
    length, fine = stretch.end - stretch.start, SUBDIVISIONS[-1]
    unit = Fraction(length, ratio.normal)
    places = note_places(length, ratio, fine)
    at, last = places[start - stretch.start], places[end - stretch.start]
    pieces: list[Piece] = []
    while at < last:
        is_on_note = at % fine == 0
        most = last if is_on_note and not is_rest else min(last, at + fine - at % fine)
        lengths = (
            k
            for k in range(most - at, 0, -1)
            if (k % fine == 0 or at + k == last or not is_on_note)
            and (value := PLAIN_VALUES.get(unit * k / fine)) is not None
            and not (is_rest and value.dots)
        )
        until = at + next(lengths, 0)
        if until == at:
            break
        value = PLAIN_VALUES[unit * (until - at) / fine]
        ticks = [stretch.start + round(Fraction(k * length, ratio.notes * fine)) for k in (at, until)]
        pieces.append(
            Piece(
                ticks[0],
                ticks[1],
                Value(base=value.base, dots=value.dots, ratio=ratio),
                (stretch.start, stretch.end),
            )
        )
        at = until
    return pieces
