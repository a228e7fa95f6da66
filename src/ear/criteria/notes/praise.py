"""Praise for right notes."""

from collections.abc import Iterator
from dataclasses import dataclass

from ear.facts.facts import Facts
from ear.findings.finding import CountedNotes, Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FindingKind, Tone
from ear.findings.praise import MOSTLY
from ear.reader import Reader
from ear.text import gettext_noop


@dataclass(frozen=True, kw_only=True)
class RightNotes(CountedNotes):
    """So many notes are right, of so many written."""

    of: int

    def gaps(self, reader: Reader) -> Gaps:
        """Return how many are written, too."""
        return super().gaps(reader) | {"of": self.of}


class WellNotes(RightNotes):
    """All notes are right."""

    KIND = FindingKind(
        code="well_notes", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("All {of} notes right."),
        student=gettext_noop("All {of} notes are right."),
    )  # fmt: skip


class MostlyNotes(RightNotes):
    """Most notes are right."""

    KIND = FindingKind(
        code="mostly_notes", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("{count} of {of} notes right."),
        student=gettext_noop("{count} of {of} notes are right."),
    )  # fmt: skip


def praise(facts: Facts, lost: set[int]) -> Iterator[Finding]:
    """Yield praise of a take whose notes are all right, or most of them."""
    of, bars = facts.target.notes, (1, facts.target.bars)
    wrong = sum(row < of for row in lost)
    if not lost:
        yield WellNotes(rows=tuple(range(of)), bars=bars, count=of, of=of)
    elif of - wrong >= MOSTLY * of:
        rows = tuple(row for row in range(of) if row not in lost)
        yield MostlyNotes(rows=rows, bars=bars, count=len(rows), of=of)
