"""Ear notes about what is better than in the take before, by more than chance; and what grows from take to take.

Of right notes two things are told: a step up from the take before, and three takes in a row of which each has more than
the one before. The step has to be larger where there are three takes to be told of, so that both together are told by
chance no more often: of takes that are all alike, one in forty at most.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import takewhile

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FindingKind, Tone
from ear.findings.standing import MAD_ERROR, MEDIAN_ERROR, WANDER, Standing
from ear.reader import Reader
from ear.text import gettext_noop

ERRORS, ERRORS_OF_STEP = 2.25, 2.5
"""Standard errors of a difference below which it is chance, not progress; of a step that is the last of several takes."""
ERRORS_OF_THREE = 1.7
"""Of three takes that rise evenly, their common standard errors from the first to the last: that they do is half the
evidence."""
EVENLY = 0.2
"""Of the rise, by which the take between may be off its middle."""
MIN_NOTES_GAINED_OF_THREE = 4
MIN_NOTES_GAINED = 3
MIN_LEAD_GAINED_MS = 8.0


@dataclass(frozen=True, kw_only=True)
class MoreRight(Finding):
    """Of `of` notes `now` are right, `before` in the take before, and `start` in the first of those compared."""

    of: int
    now: int
    before: int
    start: int

    UNIT = "notes"

    @property
    def size(self) -> float:
        """More than at the start."""
        return float(self.now - self.start)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the numbers, too."""
        return super().gaps(reader) | {
            "count": self.now - self.start, "of": self.of, "now": self.now, "before": self.before, "start": self.start,
        }  # fmt: skip


class MoreNotesRight(MoreRight):
    """More notes are right than in the take before."""

    KIND = FindingKind(
        code="improved_notes", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("{count} more notes right than in the take before: {now} of {of}, {before} then."),
        student=gettext_noop("{count} more notes are right than last time: {now} of {of}."),
    )  # fmt: skip


class MoreNotesRightThrice(MoreRight):
    """More notes are right from take to take."""

    KIND = FindingKind(
        code="improved_notes_thrice", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("More notes right in each of three takes: {start}, {before}, now {now} of {of}."),
        student=gettext_noop("From take to take more notes are right: {start}, {before}, now {now} of {of}."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class FewerSlips(Finding):
    """The time base jumps less often."""

    before: int
    now: int

    UNIT = "slips"
    KIND = FindingKind(
        code="improved_flow", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("Fewer stops: {now} slips, {before} last time."),
        student=gettext_noop("You kept going where you had stopped last time."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """Fewer than before."""
        return float(self.before - self.now)

    def gaps(self, reader: Reader) -> Gaps:
        """Return both numbers, too."""
        return super().gaps(reader) | {"before": self.before, "now": self.now}


@dataclass(frozen=True, kw_only=True)
class Smaller(Finding):
    """A time off that is smaller than in the take before, by more than its noise."""

    before_ms: float
    now_ms: float
    noise_ms: float

    UNIT = "ms"

    @property
    def size(self) -> float:
        """By how much."""
        return self.before_ms - self.now_ms

    def gaps(self, reader: Reader) -> Gaps:
        """Return the three times, too."""
        return super().gaps(reader) | {
            "before": round(self.before_ms), "now": round(self.now_ms), "noise": round(self.noise_ms),
        }  # fmt: skip


class Steadier(Smaller):
    """Notes scatter less."""

    KIND = FindingKind(
        code="improved_steadiness", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("Steadier than in the take before: {before} to {now} ms; a change within ±{noise} is normal variation."),
        student=gettext_noop("Your beat is steadier than last time: {now} ms instead of {before}."),
    )  # fmt: skip


class NearerToClick(Smaller):
    """The lead or lag is smaller."""

    KIND = FindingKind(
        code="improved_lead", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("Nearer to the click than in the take before: {before} to {now} ms off; a change within ±{noise} is normal variation."),
        student=gettext_noop("You are nearer to the click than last time: {now} ms off instead of {before}."),
    )  # fmt: skip


def improved(c: Context) -> Iterator[Finding]:
    """Find each gain over earlier takes, with its size against the spread."""
    now = Standing.of(c.match, c.measures)
    earlier = list(takewhile(lambda finding: finding.target == now.target and finding.linked, c.before[:2]))
    if not earlier or not now.linked:
        return
    before = earlier[0]
    kind = more_notes(now, earlier)
    if kind is not None:
        first = before if kind is MoreNotesRight else earlier[-1]
        yield kind(bars=c.whole(), of=now.target, now=now.matched, before=before.matched, start=first.matched)
    if before.slips > now.slips:
        yield FewerSlips(bars=c.whole(), before=before.slips, now=now.slips)
    if before.spread_ms is None or now.spread_ms is None:
        return
    steadier = before.spread_ms - now.spread_ms
    noise = MAD_ERROR * math.hypot(before.error_ms, now.error_ms)
    if steadier > ERRORS * noise:
        yield Steadier(bars=c.whole(), before_ms=before.spread_ms, now_ms=now.spread_ms, noise_ms=noise)
    if before.bias_ms is None or now.bias_ms is None:
        return
    nearer = abs(before.bias_ms) - abs(now.bias_ms)
    noise = WANDER * MEDIAN_ERROR * math.hypot(before.error_ms, now.error_ms)
    if nearer > max(MIN_LEAD_GAINED_MS, ERRORS * noise):
        yield NearerToClick(
            bars=c.whole(), before_ms=abs(before.bias_ms), now_ms=abs(now.bias_ms), noise_ms=noise
        )


def more_notes(now: Standing, earlier: Sequence[Standing]) -> type[MoreRight] | None:
    """Return what is to be said if there is something better about the notes of a take than about earlier takes of the same part
    (the last first); None if nothing is.
    """
    before, first = earlier[0], earlier[-1]
    gained = now.matched - before.matched
    errors = ERRORS if len(earlier) == 1 else ERRORS_OF_STEP
    if gained >= max(MIN_NOTES_GAINED, errors * math.hypot(before.matched_error, now.matched_error)):
        return MoreNotesRight
    if len(earlier) < 2 or not first.matched < before.matched < now.matched:
        return None
    rise = now.matched - first.matched
    share = (first.matched + before.matched + now.matched) / (3 * now.target)
    noise = math.sqrt(2.0 * now.target * share * (1.0 - share))
    is_even = abs(before.matched - (first.matched + now.matched) / 2) <= EVENLY * rise
    is_certain = rise >= max(MIN_NOTES_GAINED_OF_THREE, ERRORS_OF_THREE * noise)
    return MoreNotesRightThrice if is_even and is_certain else None


RULES = (improved,)
