"""Ear notes about notes played in place of others, and about notes that are not allowed."""

from abc import abstractmethod
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Self

from ear.criteria.notes import NOTES
from ear.findings.finding import CountedNotes
from ear.findings.gaps import Gaps
from ear.findings.kind import SLOW, FindingKind, Hue
from ear.reader import Reader
from ear.text import gettext_noop, ngettext_lazy
from ear.words.places import describe_interval

KEY_UP = gettext_noop("{played} for {written}, {interval} up")
KEY_DOWN = gettext_noop("{played} for {written}, {interval} down")
DRUM_FOR = gettext_noop("{played} for {written}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Confusion:
    """A target note in whose place another was played. Pitches as MIDI numbers, a transposition of the take taken off."""

    row: int
    """Of the match."""
    bar: int
    written: int
    played: int
    fifths: int | None = None
    """The key at its place, for the names of keys; None for drums."""
    name: int | None = None
    """How the written note is spelled, on the line of fifths; None where it is not spelled."""
    written_lane: str = ""
    played_lane: str = ""
    """Names of drums; empty for keys."""


def commonest_of(confusions: Sequence[Confusion]) -> Confusion:
    """Return the confusion that is there most often, at the first place where its written note was missed."""
    pairs = Counter((confusion.written, confusion.played) for confusion in confusions)
    commonest, _count = pairs.most_common(1)[0]
    example = next(c for c in confusions if (c.written, c.played) == commonest)
    first = next(c for c in confusions if c.written == example.written)
    return replace(first, played=example.played, played_lane=example.played_lane)


@dataclass(frozen=True, kw_only=True)
class Confused(CountedNotes):
    """Other notes than those written, each with what was played for what."""

    commonest: Confusion
    """The example that stands for them all."""
    confusions: tuple[Confusion, ...] = ()
    """One for each row; empty in what an older version measured."""

    def gaps(self, reader: Reader) -> Gaps:
        """Return the commonest confusion and its first bar, too."""
        return super().gaps(reader) | {"where": self.commonest.bar, "what": self._example(reader)}

    def without_rows(self) -> Self:
        """Return the finding without rows and without their confusions."""
        return replace(super().without_rows(), confusions=())

    def narrowed(self, rows: tuple[int, ...], bars: tuple[int, int] | None) -> Self:
        """Return the finding of the rows that are left, with the commonest of theirs."""
        left = tuple(confusion for confusion in self.confusions if confusion.row in rows)
        commonest = commonest_of(left) if left else self.commonest
        return replace(super().narrowed(rows, bars), confusions=left, commonest=commonest)

    @abstractmethod
    def _example(self, reader: Reader) -> str:
        """Return what is given as an example."""


class WrongKey(Confused):
    """Wrong keys."""

    KIND = FindingKind(
        code="wrong_key", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One wrong note in {bars}: {what}.", "{count} wrong notes in {bars}; most: {what}."),
        student=ngettext_lazy(
            "In bar {where} you played {what}. Say the note’s name before you play it.",
            "{count} wrong notes; most of all {what}, first in bar {where}. Play that place alone, slowly, and look ahead."),
    )  # fmt: skip

    def _example(self, reader: Reader) -> str:
        c = self.commonest
        fifths = c.fifths or 0
        return reader.say(
            KEY_UP if c.played > c.written else KEY_DOWN,
            {
                "played": reader.conventions.pitch(c.played, fifths=fifths),
                "written": reader.conventions.pitch(c.written, fifths=fifths, name_fifth=c.name),
                "interval": describe_interval(c.played - c.written, reader),
            },
        )


class WrongDrum(Confused):
    """Wrong drums."""

    KIND = FindingKind(
        code="wrong_drum", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One wrong drum, in {bars}: {what}.", "{count} wrong drums in {bars}; most: {what}."),
        student=ngettext_lazy(
            "In bar {where} you played {what}. Say the drum’s name before you play it.",
            "{count} wrong drums; most of all {what}, first in bar {where}. Play that place alone, slowly, and look ahead."),
    )  # fmt: skip

    def _example(self, reader: Reader) -> str:
        names = {"played": self.commonest.played_lane, "written": self.commonest.written_lane}
        return reader.say(DRUM_FOR, {gap: reader.gettext(name) for gap, name in names.items()})


@dataclass(frozen=True, kw_only=True)
class Outside(CountedNotes):
    """Notes that are not among those allowed, with the bar of the first."""

    where: int

    def gaps(self, reader: Reader) -> Gaps:
        """Return the first and its bar, too."""
        return super().gaps(reader) | {"where": self.where, "what": self._example(reader)}

    @abstractmethod
    def _example(self, reader: Reader) -> str:
        """Return what is given as an example."""


@dataclass(frozen=True, kw_only=True)
class OutsideSet(Outside):
    """Keys that are not allowed."""

    played: int
    fifths: int

    KIND = FindingKind(
        code="outside_set", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy(
            "One note outside those asked for: {what}, in {bars}.",
            "{count} notes outside those asked for; the first: {what}, in bar {where}."),
        student=ngettext_lazy(
            "{what} in bar {where} is not one of the notes allowed there. Say them aloud before you play.",
            "{count} notes are not among those allowed; the first is {what} in bar {where}. Say them aloud before you play."),
    )  # fmt: skip

    def _example(self, reader: Reader) -> str:
        return reader.conventions.pitch(self.played, fifths=self.fifths)


@dataclass(frozen=True, kw_only=True)
class OutsideDrum(Outside):
    """Drums that are not asked for."""

    played_lane: str

    KIND = FindingKind(
        code="outside_drum", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy(
            "One stroke on a drum that is not asked for: {what}, in {bars}.",
            "{count} strokes on drums that are not asked for; the first: {what}, in bar {where}."),
        student=ngettext_lazy(
            "The {what} in bar {where} is not asked for here.",
            "{count} strokes are on drums that are not asked for, first the {what} in bar {where}."),
    )  # fmt: skip

    def _example(self, reader: Reader) -> str:
        return reader.gettext(self.played_lane)
