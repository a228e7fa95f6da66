"""What an ear note is before it is said or weighed: its evidence, as fields of its own class.

Each cause that can be heard is a class with a `KIND`, the data on which all else depends: whose cost it tells, how it
is practised, its sentences. A class is named for its cause, and what several have in common stands in the bases here.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass, replace
from types import ModuleType
from typing import ClassVar, Self

from ear.findings.gaps import Gaps, describe_bar_gaps, describe_hand, give_or_take, magnitude
from ear.findings.kind import FOR_TEACHER, Claim, FindingKind, PlayedOn, Tone
from ear.notes import Hand
from ear.reader import Reader
from ear.text import Text

LONGEST = 4
"""Bars of a rung: more than these are practised from their start."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Practice:
    """A suggested rung: which bars, at which share of the tempo, with which hand or lane alone."""

    first_bar: int
    last_bar: int
    tempo_share: float
    alone: str | None = None


@dataclass(frozen=True, kw_only=True)
class Finding(ABC):
    """One cause that was heard.

    `rows` number the rows of the match that are its evidence: they index every column of `RowFacts`, which names the
    note of each (`place`). Fields are facts (a pitch by its number, a place in ticks), so that each reader's conventions
    name them.
    """

    rows: tuple[int, ...] = ()
    bars: tuple[int, int] | None = None
    """The first and the last, from 1."""

    KIND: ClassVar[FindingKind]
    UNIT: ClassVar[str]
    """Of `size`."""

    @property
    def kind(self) -> FindingKind:
        """Everything that depends on the cause alone."""
        return self.KIND

    @property
    def code(self) -> str:
        """The name by which it is stored."""
        return self.kind.code

    @property
    @abstractmethod
    def size(self) -> float:
        """How much it is, in `unit`."""

    @property
    def unit(self) -> str:
        """What `size` counts or measures."""
        return self.UNIT

    @property
    def place(self) -> str | None:
        """The hand or the lane, where it is about one."""
        return None

    @property
    def voice(self) -> str | None:
        """The same, as a rung names what is practised alone."""
        return self.place

    @property
    def quarter(self) -> float | None:
        """Where in the target, in quarter notes, where it is a point."""
        return None

    def place_in_words(self, reader: Reader) -> str | None:
        """Return the hand, the lane or the place in the bar, where it is about one."""
        return self.place

    def text(self, to: str, played_on: PlayedOn) -> Text:
        """Return the sentence for FOR_TEACHER or FOR_STUDENT, with its gaps."""
        return (
            self.kind.teacher if to == FOR_TEACHER else self.kind.student_on.get(played_on, self.kind.student)
        )

    def gaps(self, reader: Reader) -> Gaps:
        """Return what fills the gaps of its sentences, in the reader's words."""
        return describe_bar_gaps(self.bars, reader) if self.bars else {}

    def claims(self) -> tuple[Claim, ...]:
        """Return what of the losses it explains, each once."""
        kind = self.kind
        if kind.criterion is None and not kind.takes_all:
            return ()
        rows = None if kind.is_of_whole else self.rows
        return (Claim(rows=rows, criterion=kind.criterion, why=kind.why),)

    def is_within(self, full_ms: float) -> bool:
        """Return whether it is a figure that a window of full credit lets pass, so that nobody need hear of it."""
        return False

    def without_rows(self) -> Self:
        """Return the finding as lists show it: its sentence, without its evidence."""
        return replace(self, rows=())

    def narrowed(self, rows: tuple[int, ...], bars: tuple[int, int] | None) -> Self:
        """Return the finding of some of its rows, which lie in `bars`. A figure of many notes stays as it is."""
        return replace(self, rows=rows)

    def practice(self, *, last_bar: int, targets: int) -> Practice | None:
        """Return the rung that it suggests, within the part's bars. `targets` is the number of its notes."""
        kind = self.kind
        if kind.tone is Tone.PRAISE or kind.share is None or self.bars is None:
            return None
        first, last = self.bars
        if kind.joins:
            first, last = max(1, first - 1), min(last_bar, last + 1)
        if any(row < targets for row in self.rows):
            last = min(last, first + LONGEST - 1)
        return Practice(
            first_bar=first, last_bar=last, tempo_share=kind.share, alone=self.voice if kind.alone else None
        )


@dataclass(frozen=True, kw_only=True)
class OfHand(Finding):
    """About one hand."""

    hand: Hand

    @property
    def place(self) -> str:
        """The hand."""
        return f"{self.hand.value} hand"

    @property
    def voice(self) -> str:
        """The hand by its name alone."""
        return self.hand.value

    def gaps(self, reader: Reader) -> Gaps:
        """Return the hand's name, too."""
        return super().gaps(reader) | {"hand": describe_hand(self.hand, reader)}


@dataclass(frozen=True, kw_only=True)
class OfLane(Finding):
    """About one lane of the kit."""

    lane: str

    @property
    def place(self) -> str:
        """The lane."""
        return self.lane

    def gaps(self, reader: Reader) -> Gaps:
        """Return the lane's name, too."""
        return super().gaps(reader) | {"lane": reader.gettext(self.lane)}


@dataclass(frozen=True, kw_only=True)
class CountedNotes(Finding):
    """A number of notes, each of which is a row."""

    count: int

    UNIT = "notes"

    @property
    def size(self) -> float:
        """Their number."""
        return float(self.count)

    def gaps(self, reader: Reader) -> Gaps:
        """Return their number, too."""
        return super().gaps(reader) | {"count": self.count}

    def narrowed(self, rows: tuple[int, ...], bars: tuple[int, int] | None) -> Self:
        """Return the finding of the rows that are left, in the bars in which they are."""
        return replace(self, rows=rows, bars=bars or self.bars, count=len(rows))


@dataclass(frozen=True, kw_only=True)
class InMilliseconds(Finding):
    """A time, negative early."""

    size_ms: float

    UNIT = "ms"

    @property
    def size(self) -> float:
        """The time."""
        return self.size_ms

    def gaps(self, reader: Reader) -> Gaps:
        """Return the time without its sign, too."""
        return super().gaps(reader) | {"size": magnitude(self.size_ms)}


@dataclass(frozen=True, kw_only=True)
class GiveOrTake(InMilliseconds):
    """A time that is known to within its standard error."""

    error_ms: float | None = None
    """None in what an older version measured."""

    def gaps(self, reader: Reader) -> Gaps:
        """Return the error, too."""
        return super().gaps(reader) | {"give": give_or_take(self.error_ms, reader)}


@dataclass(frozen=True, kw_only=True)
class InVelocitySteps(Finding):
    """A difference of loudness."""

    size_steps: float

    UNIT = "velocity steps"

    @property
    def size(self) -> float:
        """The difference."""
        return self.size_steps

    def gaps(self, reader: Reader) -> Gaps:
        """Return the difference without its sign, too."""
        return super().gaps(reader) | {"size": magnitude(self.size_steps)}


def findings_in(module: ModuleType) -> Iterator[type[Finding]]:
    """Yield the causes that a module defines, in order; what they have in common has no kind and is left out."""
    for value in vars(module).values():
        if isinstance(value, type) and issubclass(value, Finding) and "KIND" in vars(value):
            yield value
