"""Praise for notes in time."""

from collections.abc import Iterator
from dataclasses import dataclass

from ear.facts.facts import Facts
from ear.findings.finding import CountedNotes, Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FindingKind, Tone
from ear.findings.praise import MOSTLY
from ear.numerals import decimal
from ear.reader import Reader
from ear.text import gettext_noop


@dataclass(frozen=True, kw_only=True)
class InTime(CountedNotes):
    """So many of the written notes are in time."""

    of: int

    def gaps(self, reader: Reader) -> Gaps:
        """Return how many are written, too."""
        return super().gaps(reader) | {"of": self.of}


@dataclass(frozen=True, kw_only=True)
class AllInTime(InTime):
    """All of them are, with this spread."""

    spread_ms: float

    def gaps(self, reader: Reader) -> Gaps:
        """Return the spread, too."""
        return super().gaps(reader) | {"spread": round(self.spread_ms)}


@dataclass(frozen=True, kw_only=True)
class InOwnTime(InTime):
    """They are in the player's own time, at so many quarters a minute: there was no click."""

    played_bpm: float

    def gaps(self, reader: Reader) -> Gaps:
        """Return the tempo, too."""
        return super().gaps(reader) | {"bpm": decimal(self.played_bpm, 1)}


class WellInTime(AllInTime):
    """All notes are in time."""

    KIND = FindingKind(
        code="well_in_time", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("All {of} notes in time, steady to {spread} ms."),
        student=gettext_noop("Every note is in time."),
    )  # fmt: skip


class MostlyInTime(InTime):
    """Most notes are in time."""

    KIND = FindingKind(
        code="mostly_in_time", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("{count} of {of} notes in time."),
        student=gettext_noop("{count} of {of} notes are in time."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class WellInOwnTime(AllInTime, InOwnTime):
    """All notes are in the player's own time."""

    KIND = FindingKind(
        code="well_in_own_time", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("All {of} notes steady at the player’s own tempo, {bpm} (±{spread} ms)."),
        student=gettext_noop("You kept a steady tempo of your own, {bpm}, all the way through (±{spread} ms)."),
    )  # fmt: skip


class MostlyInOwnTime(InOwnTime):
    """Most notes are in the player's own time."""

    KIND = FindingKind(
        code="mostly_in_own_time", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("{count} of {of} notes steady at the player’s own tempo, {bpm}."),
        student=gettext_noop("{count} of {of} notes are steady at your own tempo, {bpm}."),
    )  # fmt: skip


def praise(facts: Facts, lost: set[int]) -> Iterator[Finding]:
    """Yield praise of a take whose notes are all in time, or most of them. Without a click there is nothing to be in time with but
    one's own pulse, which has a tempo; and who stops on the way has not kept it.
    """
    if not facts.take.has_click and facts.slips:
        return
    of, bars = facts.target.notes, (1, facts.target.bars)
    bpm, spread_ms = facts.figures.played_bpm, facts.figures.spread_ms
    rows = tuple(row for row in range(of) if row not in lost)
    if not lost and spread_ms is not None:
        if facts.take.has_click:
            yield WellInTime(rows=rows, bars=bars, count=of, of=of, spread_ms=spread_ms)
        else:
            yield WellInOwnTime(rows=rows, bars=bars, count=of, of=of, spread_ms=spread_ms, played_bpm=bpm)
    elif of - len(lost) >= MOSTLY * of:
        if facts.take.has_click:
            yield MostlyInTime(rows=rows, bars=bars, count=len(rows), of=of)
        else:
            yield MostlyInOwnTime(rows=rows, bars=bars, count=len(rows), of=of, played_bpm=bpm)
