"""Ear notes about whose hand a take shows, and what finds them. They say what is seen and accuse nobody."""

from collections.abc import Iterator
from dataclasses import dataclass

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FindingKind, Tone
from ear.measuring.fairness import imprint, is_same_recording
from ear.reader import Reader
from ear.text import gettext_noop


class LooksQuantised(Finding):
    """Every onset is on the grid."""

    UNIT = "ms"
    KIND = FindingKind(
        code="looks_quantised", tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("Every onset is on the grid to the millisecond: this looks quantised."),
        student=gettext_noop("Every note is exactly on the grid. Hand in a take as you played it."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """How far off the grid."""
        return 0.0


@dataclass(frozen=True, kw_only=True)
class SameRecording(Finding):
    """The recording, of `played` notes, is the same as that of another player."""

    who: str
    played: int

    UNIT = "notes"

    KIND = FindingKind(
        code="same_recording", tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("The same recording as {who}: every onset agrees to the millisecond."),
        student=gettext_noop("This take has exactly the same notes and timing as another one. Hand in a take of your own playing."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """Notes played."""
        return float(self.played)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the other player, too."""
        return super().gaps(reader) | {"who": self.who}


def machine_hand(c: Context) -> Iterator[Finding]:
    """Find playing that is more even than a human hand."""
    if c.measures.looks_quantised:
        yield LooksQuantised(bars=c.whole())


def same_recording(c: Context) -> Iterator[Finding]:
    """Find a recording that is the same as another student's."""
    if c.measures.looks_quantised:
        # Two corrected takes of one part are alike whoever played them.
        return
    own = imprint(c.recorded)
    for who, other in c.others:
        if is_same_recording(own, other):
            yield SameRecording(bars=c.whole(), who=who, played=len(c.take.notes))


RULES = (machine_hand, same_recording)
