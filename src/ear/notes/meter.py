"""Meter and tempo: from ticks to bars and beats, and to seconds and back."""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate, pairwise

import numpy as np
from numpy.typing import NDArray

from ear.errors import ValueOutOfRange
from ear.numerals import decimal
from ear.units import MAX_BPM, MIN_BPM, TICKS_PER_QUARTER

UNEVEN = {5: (3, 2), 7: (2, 2, 3), 8: (3, 3, 2), 10: (3, 3, 2, 2), 11: (3, 3, 3, 2)}
"""How bars of so many quavers, or semiquavers, are counted where nothing is said."""
DENOMINATORS = (2, 4, 8, 16)
MAX_NUMERATOR = 32


@dataclass(frozen=True, slots=True, kw_only=True)
class Meter:
    """A time signature."""

    numerator: int
    denominator: int
    groups: tuple[int, ...] = ()
    """How an uneven bar is counted, in units of the denominator: 2, 2, 3. Empty where the numerator says it."""

    def __post_init__(self) -> None:
        if self.groups and (min(self.groups) < 1 or sum(self.groups) != self.numerator):
            raise ValueOutOfRange("meter_groups_wrong", numerator=self.numerator)
        if not 1 <= self.numerator <= MAX_NUMERATOR or self.denominator not in DENOMINATORS:
            raise ValueOutOfRange("meter_unknown", numerator=self.numerator, denominator=self.denominator)

    @property
    def bar_ticks(self) -> int:
        """Ticks of one bar."""
        return self.numerator * TICKS_PER_QUARTER * 4 // self.denominator

    @property
    def bar_quarters(self) -> float:
        """Quarters of one bar."""
        return self.bar_ticks / TICKS_PER_QUARTER

    @property
    def is_compound(self) -> bool:
        """Felt in dotted beats: 6/8, 9/8, 12/8 and their kin."""
        return self.denominator >= 8 and self.numerator % 3 == 0 and self.numerator > 3

    @property
    def beat_ticks(self) -> int:
        """Length of the beat that a musician counts."""
        unit = TICKS_PER_QUARTER * 4 // self.denominator
        return unit * 3 if self.is_compound else unit

    @property
    def is_regular(self) -> bool:
        """Are all its beats alike? Five and seven quavers are felt in twos and threes."""
        return not self._uneven

    @property
    def _uneven(self) -> tuple[int, ...]:
        return self.groups or (UNEVEN.get(self.numerator, ()) if self.denominator >= 8 else ())

    @property
    def beat_starts(self) -> tuple[int, ...]:
        """Where beats begin, in ticks from the beginning of the bar; in an uneven bar, where its groups do."""
        if not self._uneven:
            return tuple(range(0, self.bar_ticks, self.beat_ticks))
        unit = TICKS_PER_QUARTER * 4 // self.denominator
        return tuple(unit * k for k in accumulate((0, *self._uneven[:-1])))

    @property
    def beats(self) -> int:
        """Beats that a musician counts in a bar."""
        return self.bar_ticks // self.beat_ticks


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterChange:
    """From this bar on another meter holds."""

    bar: int
    """Counted from 1; a pick-up is bar 0."""
    meter: Meter


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """One bar of a part: its number, where it begins, its meter."""

    number: int
    start_tick: int
    meter: Meter

    @property
    def end_tick(self) -> int:
        """Where the bar ends, in ticks from the beginning."""
        return self.start_tick + self.meter.bar_ticks


@dataclass(frozen=True, slots=True, kw_only=True)
class Position:
    """A place as musicians count it: bar and beat from 1, then ticks into the beat."""

    bar: int
    beat: int
    tick: int


BARS_REMEMBERED = 2000


class MeterMap:
    """Meters along a part. The last one goes on without end.

    `changes` are in order of bar; the first must be at bar 1, or at bar 0 in a part that begins with a pick-up. Tick 0 is
    where the first of them begins: a pick-up stands at the end of a whole bar, as it is counted.
    """

    __slots__ = ("_bars", "_known", "_starts", "changes")

    def __init__(self, changes: Sequence[MeterChange]) -> None:
        if not changes or changes[0].bar not in (0, 1):
            raise ValueOutOfRange("meter_missing_at_start")
        starts = [0]
        for before, after in pairwise(changes):
            if after.bar <= before.bar:
                raise ValueOutOfRange("meter_changes_not_sorted")
            starts.append(starts[-1] + (after.bar - before.bar) * before.meter.bar_ticks)
        self.changes = tuple(changes)
        self._starts = starts
        self._bars = [c.bar for c in self.changes]
        self._known: dict[int, Bar] = {}

    @classmethod
    def of(cls, numerator: int, denominator: int) -> "MeterMap":
        """Return a map of one metre throughout."""
        meter = Meter(numerator=numerator, denominator=denominator)
        return cls([MeterChange(bar=1, meter=meter)])

    def __eq__(self, other: object) -> bool:
        return isinstance(other, MeterMap) and self.changes == other.changes

    def __hash__(self) -> int:
        return hash(self.changes)

    @property
    def first(self) -> Meter:
        """The meter of the first bar."""
        return self.changes[0].meter

    @property
    def first_bar(self) -> int:
        """The number of the bar that begins at tick 0: 0 is a pick-up."""
        return self.changes[0].bar

    def numbered_from(self, bar: int) -> "MeterMap":
        """Return the same meters with the first bar so numbered."""
        by = bar - self.first_bar
        return MeterMap([MeterChange(bar=c.bar + by, meter=c.meter) for c in self.changes]) if by else self

    def bar_at(self, tick: float) -> Bar:
        """Return the bar that holds a tick. Before the first one there are bars with lower numbers in its metre."""
        index = max(0, bisect_right(self._starts, tick) - 1)
        change = self.changes[index]
        number = change.bar + int((tick - self._starts[index]) // change.meter.bar_ticks)
        return self._known.get(number) or self._made(number, index)

    def bar(self, number: int) -> Bar:
        """Return a bar by its number."""
        return self._known.get(number) or self._made(number, max(0, bisect_right(self._bars, number) - 1))

    def _made(self, number: int, index: int) -> Bar:
        """A bar under the meter by its index, remembered: each note asks for its own."""
        change = self.changes[index]
        start = self._starts[index] + (number - change.bar) * change.meter.bar_ticks
        made = Bar(number=number, start_tick=start, meter=change.meter)
        if len(self._known) < BARS_REMEMBERED:
            self._known[number] = made
        return made

    def bars(self, end_tick: int) -> list[Bar]:
        """Return the bars from the first up to the one in which the part ends; at least one."""
        rows = [self.bar(self.first_bar)]
        while rows[-1].end_tick < end_tick:
            rows.append(self.bar(rows[-1].number + 1))
        return rows

    def position(self, tick: float) -> Position:
        """Return the bar and beat of a tick, beats from 1, and the ticks after the beat."""
        bar = self.bar_at(tick)
        into = round(tick - bar.start_tick)
        beat, rest = divmod(into, bar.meter.beat_ticks)
        return Position(bar=bar.number, beat=beat + 1, tick=rest)


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoChange:
    """From this tick on another tempo holds."""

    tick: int
    bpm: float
    """Quarter notes a minute."""

    def __post_init__(self) -> None:
        if not MIN_BPM <= self.bpm <= MAX_BPM:
            raise ValueOutOfRange(
                "tempo_out_of_range",
                bpm_min=decimal(MIN_BPM),
                bpm_max=decimal(MAX_BPM),
                bpm=decimal(self.bpm),
            )


class TempoMap:
    """The click's tempo along a part, steps from one to the next.

    Before tick 0 the first tempo holds, after the last change the last one.
    """

    __slots__ = ("_beats", "_bpms", "_seconds", "_ticks", "changes")

    def __init__(self, changes: Sequence[TempoChange]) -> None:
        if not changes or changes[0].tick != 0:
            raise ValueOutOfRange("tempo_missing_at_start")
        seconds = [0.0]
        for before, after in pairwise(changes):
            if after.tick <= before.tick:
                raise ValueOutOfRange("tempo_changes_not_sorted")
            quarters = (after.tick - before.tick) / TICKS_PER_QUARTER
            seconds.append(seconds[-1] + quarters * 60.0 / before.bpm)
        self.changes = tuple(changes)
        self._ticks = [c.tick for c in changes]
        self._beats = np.array(self._ticks) / TICKS_PER_QUARTER
        self._bpms = np.array([c.bpm for c in changes])
        self._seconds = np.array(seconds)

    @classmethod
    def of(cls, bpm: float) -> "TempoMap":
        """Return a map of one tempo throughout, in quarters a minute."""
        return cls([TempoChange(tick=0, bpm=bpm)])

    def __eq__(self, other: object) -> bool:
        return isinstance(other, TempoMap) and self.changes == other.changes

    def __hash__(self) -> int:
        return hash(self.changes)

    @property
    def first_bpm(self) -> float:
        """The tempo at the beginning, in quarters a minute."""
        return self.changes[0].bpm

    def seconds(self, quarters: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return quarters from bar 1 as seconds from bar 1, in any shape, element by element."""
        if len(self.changes) == 1:
            return quarters * (60.0 / self.changes[0].bpm)
        index = np.clip(np.searchsorted(self._beats, quarters, side="right") - 1, 0, None)
        moments_s: NDArray[np.float64] = self._seconds[index] + (quarters - self._beats[index]) * (
            60.0 / self._bpms[index]
        )
        return moments_s

    def quarters(self, seconds: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return seconds from bar 1 as quarters from bar 1, in any shape, element by element."""
        if len(self.changes) == 1:
            return seconds * (self.changes[0].bpm / 60.0)
        index = np.clip(np.searchsorted(self._seconds, seconds, side="right") - 1, 0, None)
        places: NDArray[np.float64] = self._beats[index] + (seconds - self._seconds[index]) * (
            self._bpms[index] / 60.0
        )
        return places

    def even(self, quarters: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return places as quarters of the first tempo that last as long.

        In these, a player who keeps to the click keeps one tempo.
        """
        if len(self.changes) == 1:
            return quarters
        places: NDArray[np.float64] = self.seconds(quarters) * (self.first_bpm / 60.0)
        return places

    def bpms(self, quarters: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return the tempo at each place, in quarters a minute, in any shape."""
        index = np.clip(np.searchsorted(self._beats, quarters, side="right") - 1, 0, None)
        tempos: NDArray[np.float64] = self._bpms[index]
        return tempos

    def second_at(self, tick: float) -> float:
        """Return the seconds from bar 1 to a tick."""
        return float(self.seconds(np.array(tick / TICKS_PER_QUARTER)))

    def bpm_at(self, tick: float) -> float:
        """Return the tempo at a tick, in quarters a minute."""
        index = bisect_right(self._ticks, tick) - 1
        return self.changes[max(0, index)].bpm
