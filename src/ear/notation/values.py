"""Note values, and the ticks that can be written with them: beat by beat, in two or in three."""

from collections.abc import Iterable
from dataclasses import dataclass

from ear.notes import Bar, Part
from ear.units import TICKS_PER_QUARTER

FINE = TICKS_PER_QUARTER // 8
"""A thirty-second."""
TRIPLET_FINE = TICKS_PER_QUARTER // 6
"""A sixteenth of a triplet."""
WHOLE = 4 * TICKS_PER_QUARTER
VALUES = (1, 2, 4, 8, 16, 32)
MAX_DOTS = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Value:
    """A note value: 4 for a quarter, with dots; in a triplet three in the time of two."""

    base: int
    dots: int = 0
    is_triplet: bool = False

    @property
    def ticks(self) -> int:
        """The length in ticks."""
        plain = WHOLE // self.base
        dotted = plain * ((1 << self.dots + 1) - 1) >> self.dots
        return dotted * 2 // 3 if self.is_triplet else dotted


def _values(*, is_triplet: bool) -> dict[int, Value]:
    values: dict[int, Value] = {}
    for dots in range(MAX_DOTS + 1):
        for base in VALUES:
            value = Value(base=base, dots=dots, is_triplet=is_triplet)
            fine = TRIPLET_FINE if is_triplet else FINE
            if WHOLE // base % (1 << dots) == 0 and value.ticks % fine == 0:
                values.setdefault(value.ticks, value)
    return values


PLAIN_VALUES = _values(is_triplet=False)
TRIPLET_VALUES = _values(is_triplet=True)


THIRDS = (TICKS_PER_QUARTER // 3, 2 * TICKS_PER_QUARTER // 3)
THIRD_NEAR = 12
"""Ticks."""


class ValueGrid:
    """Ticks that can be written: beat by beat, in two or in three."""

    def __init__(self, part: Part, triplets: frozenset[int]) -> None:
        self.part, self.triplets = part, triplets

    @classmethod
    def of(cls, part: Part) -> "ValueGrid":
        """Return the grid on which a part is written, with triplets in the quarters that need them."""
        edges: dict[int, list[int]] = {}
        for note in part.notes:
            # An end speaks for triplets only where it is plainly one: most keys are let go anywhere.
            into = note.end_tick % TICKS_PER_QUARTER
            is_third = min(abs(into - third) for third in THIRDS) <= THIRD_NEAR
            ends = (note.end_tick,) if part.instrument.has_length and is_third else ()
            for tick in (note.onset_tick, *ends):
                edges.setdefault(tick // TICKS_PER_QUARTER, []).append(tick % TICKS_PER_QUARTER)
        triplets = frozenset(
            beat
            for beat, ticks in edges.items()
            if part.meters.bar_at(beat * TICKS_PER_QUARTER).meter.beat_ticks % TICKS_PER_QUARTER == 0
            and not part.meters.bar_at(beat * TICKS_PER_QUARTER).meter.is_compound
            and part.meters.bar_at(beat * TICKS_PER_QUARTER).start_tick % TICKS_PER_QUARTER == 0
            and _error(ticks, TRIPLET_FINE) < _error(ticks, FINE)
        )
        return cls(part, triplets)

    def is_triplet(self, tick: int) -> bool:
        """Return whether the quarter at a tick is one of triplets."""
        return tick // TICKS_PER_QUARTER in self.triplets

    def snap(self, tick: int) -> int:
        """Return the nearest tick on the grid."""
        fine = TRIPLET_FINE if self.is_triplet(tick) else FINE
        return round(tick / fine) * fine

    def onset(self, tick: int) -> int:
        """Return the tick where a note is written to begin, never after the part's last bar."""
        last = self.part.bars[-1].end_tick
        return min(self.snap(tick), last - (TRIPLET_FINE if self.is_triplet(last - 1) else FINE))

    def pieces(self, start: int, end: int, bar: Bar) -> list[tuple[int, Value]]:
        """Return a stretch of a bar as note values that show the beats: (tick, value) pairs to be tied."""
        pieces: list[tuple[int, Value]] = []
        at = start
        while at < end:
            # Values must not hide the beats: `_until` says how far one may reach from here.
            until = self._until(at, end, bar)
            table = (
                TRIPLET_VALUES if self.is_triplet(at) and not self._spans_beats(at, until) else PLAIN_VALUES
            )
            while until - at not in table:
                # The longest value that fits; the rest follows, tied.
                until = at + max((t for t in table if t < until - at), default=until - at)
                # Shorter than any value: the rest cannot be written and is dropped.
                if until - at not in table:
                    return pieces
            pieces.append((at, table[until - at]))
            at = until
        return pieces

    def rests(self, start: int, end: int, bar: Bar) -> list[tuple[int, Value]]:
        """Return a stretch of silence as rests: (tick, value) pairs.

        Rests show every beat: none has a dot but one over a whole compound beat, none reaches over a beat
        but one over the first or second half of an even number of beats (E. Gould,
        Behind Bars, 2011, on rests).
        """
        rests: list[tuple[int, Value]] = []
        at = start
        while at < end:
            value = self._rest(at, end, bar)
            if value is None:
                break
            rests.append((at, value))
            at += value.ticks
        return rests

    def _rest(self, at: int, end: int, bar: Bar) -> Value | None:
        """The longest rest that may begin at a place."""
        meter = bar.meter
        has_triplet = self._any_triplet(at, end)
        beat = TICKS_PER_QUARTER if has_triplet else meter.beat_ticks
        into = at - bar.start_tick
        if into % beat == 0:
            # A minim rest may fill the first or second half of a bar of four, but not its middle.
            in_pairs = not meter.is_compound and meter.beats % 2 == 0 and not has_triplet
            for whole in (2 * beat, beat) if in_pairs else (beat,):
                if into % whole == 0 and at + whole <= end and whole in PLAIN_VALUES:
                    return PLAIN_VALUES[whole]
        table = TRIPLET_VALUES if self.is_triplet(at) else PLAIN_VALUES
        room = min(end - at, beat - into % beat)
        fitting = (t for t, v in table.items() if not v.dots and t <= room and into % beat % t == 0)
        return table[longest] if (longest := max(fitting, default=0)) else None

    @staticmethod
    def _spans_beats(start: int, end: int) -> bool:
        return start % TICKS_PER_QUARTER == 0 and end - start >= TICKS_PER_QUARTER

    def _until(self, at: int, end: int, bar: Bar) -> int:
        """How far one value may reach from a place without hiding where the beats are."""
        # A triplet fills a quarter, also where half notes are counted.
        beat = TICKS_PER_QUARTER if self._any_triplet(at, end) else bar.meter.beat_ticks
        into = at - bar.start_tick
        next_beat = at + beat - into % beat
        if end <= next_beat:
            return end
        on_beat = into % beat == 0
        last_beat = end - (end - bar.start_tick) % beat
        if on_beat:
            if self._any_triplet(next_beat, end) and end != last_beat:
                return last_beat
            return (
                end
                if end - at in PLAIN_VALUES
                else last_beat
                if last_beat - at in PLAIN_VALUES
                else next_beat
            )
        # An off-beat as long as a beat is the one syncopation that is read at once; longer ones are tied at
        # the beat.
        is_syncopated = into % beat == beat // 2 and end - at == beat and not bar.meter.is_compound
        # The middle of the bar is always shown.
        crosses_middle = (next_beat - bar.start_tick) * 2 == bar.meter.bar_ticks
        if is_syncopated and not crosses_middle and not self._any_triplet(at, end):
            return end
        return next_beat

    def _any_triplet(self, start: int, end: int) -> bool:
        first, last = start // TICKS_PER_QUARTER, (end - 1) // TICKS_PER_QUARTER
        return any(beat in self.triplets for beat in range(first, last + 1))


def _error(ticks: Iterable[int], fine: int) -> int:
    return sum(min(t % fine, -t % fine) for t in ticks)
