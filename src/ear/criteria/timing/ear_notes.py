"""Ear notes about when notes were played: lead and lag, places, lanes and hands, swing and steadiness."""

import math
from dataclasses import dataclass, replace
from typing import ClassVar, Self

from ear.criteria.timing import TIMING
from ear.findings.finding import Finding, GiveOrTake, InMilliseconds, OfHand, OfLane
from ear.findings.gaps import Gaps, describe_hand, magnitude
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER, FULL, SLOW, FindingKind, Hue, PlayedOn, Tone
from ear.findings.place_in_bar import PlaceInBar
from ear.notes import Hand
from ear.numerals import fixed
from ear.reader import Reader
from ear.text import Text, gettext_noop, ngettext_lazy
from ear.words.phrases import listed


class Lead(GiveOrTake):
    """All notes are early."""

    KIND = FindingKind(
        code="lead", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY, share=FULL,
        teacher=gettext_noop("Constantly early by {size}{give} ms, all through."),
        student=gettext_noop("All your notes come a little before the click. Listen for the click and play with it. If it felt right to you, measure the latency."),
    )  # fmt: skip


class Lag(GiveOrTake):
    """All notes are late."""

    KIND = FindingKind(
        code="lag", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, share=FULL,
        teacher=gettext_noop("Constantly late by {size}{give} ms, all through."),
        student=gettext_noop("All your notes come a little after the click. Feel the beat coming and play with it. If it felt right to you, measure the latency."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class NoPulse(Finding):
    """The take is no more in time than random notes are."""

    in_time: float
    """How surely it is in time, 0 to 1."""

    UNIT = "share"
    KIND = FindingKind(
        code="no_pulse", criterion=TIMING, tone=Tone.FACT, share=FULL,
        teacher=gettext_noop("No clear pulse: the notes fall almost at random."),
        student=gettext_noop("No steady beat can be heard. Tap your foot first, then let every note land on a tap."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """How surely it is in time."""
        return self.in_time


@dataclass(frozen=True, kw_only=True)
class LaneApart(GiveOrTake, OfLane):
    """A lane that is always off from the others."""


class LaneEarly(LaneApart):
    """A lane is ahead of the others."""

    KIND = FindingKind(
        code="lane_early", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY, alone=True,
        teacher=gettext_noop("The {lane} is {size}{give} ms ahead of the rest, all through."),
        student=gettext_noop("Your {lane} comes ahead of the rest. Play it alone to a steady beat, then add the others."),
    )  # fmt: skip


class LaneLate(LaneApart):
    """A lane is behind the others."""

    KIND = FindingKind(
        code="lane_late", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, alone=True,
        teacher=gettext_noop("The {lane} is {size}{give} ms behind the rest, all through."),
        student=gettext_noop("Your {lane} comes behind the rest. Lift that stick or foot sooner; play it alone to a steady beat first."),
        student_on={
            PlayedOn.KEYS: gettext_noop("Your {lane} comes behind the rest. Press its key a little sooner; play it alone to a steady beat first."),
            PlayedOn.TYPING: gettext_noop("Your {lane} comes behind the rest. Press its typing key a little sooner; play it alone to a steady beat first."),
            PlayedOn.SCREEN: gettext_noop("Your {lane} comes behind the rest. Tap it a little sooner; play it alone to a steady beat first."),
        },
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class FillsEarly(GiveOrTake):
    """Fills of a groove, or quick figures of a tune, come early; `in_bars` are the bars in which they do."""

    in_bars: tuple[int, ...]
    are_quick: bool

    KIND = FindingKind(
        code="fills_early", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY, share=SLOW,
        teacher=ngettext_lazy(
            "Rushes the fill in bar {numbers}: {size}{give} ms early.",
            "Rushes the fills in bars {numbers}: {size}{give} ms early.", by="bars_named"),
        student=gettext_noop("Your fills come too soon. Count through them aloud, and land on the next “one” with the click."),
    )  # fmt: skip
    QUICK = {
        FOR_TEACHER: ngettext_lazy(
            "Rushes the quick notes in bar {numbers}: {size}{give} ms early.",
            "Rushes the quick notes in bars {numbers}: {size}{give} ms early.",
            by="bars_named",
        ),
        FOR_STUDENT: gettext_noop(
            "Your quick notes come too soon. Play them slowly and evenly, and give each its full time."
        ),
    }

    def text(self, to: str, played_on: PlayedOn) -> Text:
        """Return the sentence, for quick notes where they are none of a groove."""
        return self.QUICK[to] if self.are_quick else super().text(to, played_on)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the numbers of the bars, too."""
        return super().gaps(reader) | {
            "numbers": listed([str(bar) for bar in self.in_bars], reader), "bars_named": len(self.in_bars),
        }  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class PlaceApart(GiveOrTake):
    """A place in the bar, of one lane where `lane` is set, that is off `count` of `of` times."""

    at: PlaceInBar
    count: int
    of: int
    lane: str | None = None

    OF_LANE: ClassVar[tuple[Text, Text]]
    """For a teacher and a student, where it is of one lane."""

    def place_in_words(self, reader: Reader) -> str:
        """Return the place in the bar."""
        return self.at.describe(reader)

    def text(self, to: str, played_on: PlayedOn) -> Text:
        """Return the sentence, which names the lane where there is one."""
        if self.lane is None:
            return super().text(to, played_on)
        return self.OF_LANE[0 if to == FOR_TEACHER else 1]

    def gaps(self, reader: Reader) -> Gaps:
        """Return the place, its counts and its lane, too."""
        lane = {} if self.lane is None else {"lane": reader.gettext(self.lane)}
        return super().gaps(reader) | {
            "place": self.at.describe(reader), "count": self.count, "of": self.of, **lane,
        }  # fmt: skip

    def narrowed(self, rows: tuple[int, ...], bars: tuple[int, int] | None) -> Self:
        """Return the finding of the rows that are left; where all of its notes were off, they are its count."""
        if self.count < len(self.rows):
            return super().narrowed(rows, bars)
        return replace(self, rows=rows, bars=bars or self.bars, count=len(rows))


class PlaceEarly(PlaceApart):
    """A place in the bar comes early."""

    KIND = FindingKind(
        code="place_early", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=ngettext_lazy(
            "Early at one place in the bar, {place}: by {size}{give} ms.",
            "Early at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
        student=ngettext_lazy(
            "At one place in the bar you come early: {place}. Say it aloud while you play and wait for it.",
            "At one place in the bar you come early, {count} times out of {of}: {place}. Say it aloud while you play and wait for it.", by="of"),
    )  # fmt: skip
    OF_LANE = (
        ngettext_lazy(
            "The {lane} is early at one place in the bar, {place}: by {size}{give} ms.",
            "The {lane} is early at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
        ngettext_lazy(
            "Your {lane} comes early at one place in the bar: {place}. Say it aloud while you play and wait for it.",
            "Your {lane} comes early at one place in the bar, {count} times out of {of}: {place}. Say it aloud while you play and wait for it.", by="of"),
    )  # fmt: skip


class PlaceLate(PlaceApart):
    """A place in the bar comes late."""

    KIND = FindingKind(
        code="place_late", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=ngettext_lazy(
            "Late at one place in the bar, {place}: by {size}{give} ms.",
            "Late at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
        student=ngettext_lazy(
            "At one place in the bar you come late: {place}. Get ready for it sooner.",
            "At one place in the bar you come late, {count} times out of {of}: {place}. Get ready for it sooner.", by="of"),
    )  # fmt: skip
    OF_LANE = (
        ngettext_lazy(
            "The {lane} is late at one place in the bar, {place}: by {size}{give} ms.",
            "The {lane} is late at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
        ngettext_lazy(
            "Your {lane} comes late at one place in the bar: {place}. Get ready for it sooner.",
            "Your {lane} comes late at one place in the bar, {count} times out of {of}: {place}. Get ready for it sooner.", by="of"),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Passage(InMilliseconds):
    """Consecutive bars that are off from the rest; `worst_ms` is the furthest note, without its sign."""

    worst_ms: float

    def gaps(self, reader: Reader) -> Gaps:
        """Return the worst, too."""
        return super().gaps(reader) | {"most": magnitude(self.worst_ms)}


class PassageEarly(Passage):
    """Bars run ahead."""

    KIND = FindingKind(
        code="passage_early", criterion=TIMING, hue=Hue.EARLY,
        teacher=gettext_noop("Runs ahead in {bars}: typically {size} ms early, at worst {most}."),
        student=gettext_noop("In {bars} you run ahead of the click. Loop that place slowly and leave room."),
    )  # fmt: skip


class PassageLate(Passage):
    """Bars fall behind."""

    KIND = FindingKind(
        code="passage_late", criterion=TIMING, hue=Hue.LATE, share=SLOW,
        teacher=gettext_noop("Falls behind in {bars}: typically {size} ms late, at worst {most}."),
        student=gettext_noop("In {bars} you fall behind the click. Loop that passage slowly until your hands know it."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Swing(Finding):
    """Ratios of the first to the second part of a beat, played and written."""

    played_ratio: float
    written_ratio: float

    UNIT = "ratio"

    @property
    def size(self) -> float:
        """The ratio played."""
        return self.played_ratio

    def gaps(self, reader: Reader) -> Gaps:
        """Return both ratios, too."""
        return super().gaps(reader) | {
            "played": fixed(self.played_ratio, 1), "written": fixed(self.written_ratio, 1),
        }  # fmt: skip


class SwingStraight(Swing):
    """Less swing than written."""

    KIND = FindingKind(
        code="swing_straight", criterion=TIMING, tone=Tone.FACT,
        teacher=gettext_noop("Swing too straight: {played} to 1 where {written} to 1 is written."),
        student=gettext_noop("Your off-beats come too soon: let the first note of each pair be the longer one."),
    )  # fmt: skip


class SwingDeep(Swing):
    """More swing than written."""

    KIND = FindingKind(
        code="swing_deep", criterion=TIMING, tone=Tone.FACT,
        teacher=gettext_noop("Swing too deep: {played} to 1 where {written} to 1 is written."),
        student=gettext_noop("Your off-beats come too late: the short note is clipped. Think in three."),
    )  # fmt: skip


class Swung(Swing):
    """Swing where none is written."""

    KIND = FindingKind(
        code="swung", criterion=TIMING, tone=Tone.FACT,
        teacher=gettext_noop("Swings where straight is written: {played} to 1."),
        student=gettext_noop("Your pairs are a little uneven. Make both notes of each pair the same length."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class HandLate(GiveOrTake, OfHand):
    """A hand comes after the other."""

    KIND = FindingKind(
        code="hand_late", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, alone=True,
        teacher=gettext_noop("The {late} hand comes {size}{give} ms after the {other}."),
        student=gettext_noop("Your {late} hand comes after your {other}. Tap both hands on your knees together, then play."),
    )  # fmt: skip

    def gaps(self, reader: Reader) -> Gaps:
        """Return the names of both hands, too."""
        other = Hand.RIGHT if self.hand is Hand.LEFT else Hand.LEFT
        return super().gaps(reader) | {
            "late": describe_hand(self.hand, reader), "other": describe_hand(other, reader),
        }  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class HandUnsteady(InMilliseconds, OfHand):
    """A hand scatters far more than the other."""

    other_ms: float
    """Spread of the other."""

    KIND = FindingKind(
        code="hand_unsteady", criterion=TIMING, alone=True,
        teacher=gettext_noop("The {hand} hand is unsteady: it scatters by {size} ms, the other by {most}."),
        student=gettext_noop("Your {hand} hand is less sure of the beat than the other. Play it alone to a steady beat until it sits."),
    )  # fmt: skip

    def gaps(self, reader: Reader) -> Gaps:
        """Return the other hand's spread, too."""
        return super().gaps(reader) | {"most": magnitude(self.other_ms)}


class RolledChords(GiveOrTake):
    """Chords are rolled, by their spread from first note to last; the error is that of each step."""

    KIND = FindingKind(
        code="rolled_chords", criterion=TIMING,
        teacher=gettext_noop("Chords are rolled: {size} ms from first note to last."),
        student=gettext_noop("The notes of your chords come one after the other. Shape the hand above the keys, then let it fall as one."),
        student_on={
            PlayedOn.TYPING: gettext_noop("The notes of your chords come one after the other. Rest your fingers on all the keys first, then press them together."),
            PlayedOn.SCREEN: gettext_noop("The notes of your chords come one after the other. Hold your fingers over all the keys first, then tap them together."),
        },
    )  # fmt: skip


class Unsteady(InMilliseconds):
    """Notes scatter about the player's own time."""

    KIND = FindingKind(
        code="unsteady", criterion=TIMING, why=("early", "late"), is_overall=True,
        teacher=gettext_noop("Unsteady: notes scatter by {size} ms about the player’s own beat."),
        student=gettext_noop("Your beat is a bit uneven. Play it slower, to a steady beat, until it feels easy. Then play it a little faster."),
    )  # fmt: skip

    def is_within(self, full_ms: float) -> bool:
        """Return whether the scatter is within a window, surely: by two of its standard errors (of a normal sample's)."""
        error_ms = self.size_ms / math.sqrt(2.0 * max(1, len(self.rows)))
        return self.size_ms + 2.0 * error_ms <= full_ms


@dataclass(frozen=True, kw_only=True)
class OtherDivision(Finding):
    """The beat is divided into another number of notes than is asked for."""

    played: int
    asked: int

    UNIT = "notes"
    KIND = FindingKind(
        code="other_division", criterion=TIMING, tone=Tone.FACT,
        teacher=ngettext_lazy(
            "Plays {played} notes to the beat where {asked} is asked for.",
            "Plays {played} notes to the beat where {asked} are asked for.", by="asked"),
        student=ngettext_lazy(
            "You divided the beat into {played}; here it is {asked} note to the beat. Say it aloud first.",
            "You divided the beat into {played}; here it is {asked} notes to the beat. Say it aloud first.", by="asked"),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """Notes to the beat, played."""
        return float(self.played)

    def gaps(self, reader: Reader) -> Gaps:
        """Return both numbers, too."""
        return super().gaps(reader) | {"played": self.played, "asked": self.asked}
