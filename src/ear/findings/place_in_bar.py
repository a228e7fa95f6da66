"""A place in any bar, as an ear note keeps it."""

from dataclasses import dataclass
from typing import Self

from ear.notes import Bar
from ear.reader import Reader
from ear.words.places import describe_place


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceInBar:
    """`into_ticks` after a beat, which counts from 1 and lasts `beat_ticks`."""

    beat: int
    into_ticks: int
    beat_ticks: int
    is_compound: bool

    @classmethod
    def at(cls, tick_in_bar: int, bar: Bar) -> Self:
        """Return the place of a tick in a bar."""
        beat, into = divmod(tick_in_bar, bar.meter.beat_ticks)
        return cls(
            beat=beat + 1, into_ticks=into, beat_ticks=bar.meter.beat_ticks, is_compound=bar.meter.is_compound
        )

    def describe(self, reader: Reader) -> str:
        """Return the place as it is counted: “beat 2”, “the “and” of 2”."""
        return describe_place(
            self.beat,
            self.into_ticks,
            beat_ticks=self.beat_ticks,
            is_compound=self.is_compound,
            reader=reader,
        )
