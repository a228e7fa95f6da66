"""Ear notes about whether the music kept going: jumps, repeats, bars with too few or too many notes."""

from dataclasses import dataclass

from ear.criteria.flow import FLOW
from ear.findings.finding import Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FULL, SLOW, FindingKind, Hue, Tone
from ear.findings.place_in_bar import PlaceInBar
from ear.matching.outcome import SlipKind
from ear.text import gettext_noop, ngettext_lazy
from ear.words.places import BAR_AND_PLACE
from ear.words.reader import Reader, decimal

A_GUESS = gettext_noop(" A guess: bars are alike there, and it may have been another.")


@dataclass(frozen=True, kw_only=True)
class TimeSlip(Finding):
    """A place where time was lost, gained or jumped over, before the note at `quarter_in_part`."""

    quarters: float
    """By how many quarter notes what follows is later."""
    beats: float
    """How many beats that are, without its sign."""
    bar: int
    quarter_in_part: float
    at: PlaceInBar
    is_guess: bool
    """Bars are alike there, and it may have been another."""

    UNIT = "quarters"

    @property
    def size(self) -> float:
        """In quarter notes, positive later."""
        return self.quarters

    @property
    def quarter(self) -> float:
        """Where it is."""
        return self.quarter_in_part

    def gaps(self, reader: Reader) -> Gaps:
        """Return the place, the beats and whether it is a guess, too."""
        place = {"bar": self.bar, "place": self.at.describe(reader)}
        return super().gaps(reader) | {
            "where": reader.say(BAR_AND_PLACE, place),
            "number": self.beats,
            "beats": decimal(self.beats, 1 if self.beats < 10 else 0),
            "guess": reader.say(A_GUESS, {}) if self.is_guess else "",
        }


class LateStart(TimeSlip):
    """The player comes in late."""

    KIND = FindingKind(
        code="late_start", criterion=FLOW, hue=Hue.LATE, share=FULL,
        teacher=ngettext_lazy("Starts {beats} beat late, then keeps time.", "Starts {beats} beats late, then keeps time.", by="number"),
        student=ngettext_lazy(
            "You came in {beats} beat late. Count aloud until it begins: the first note is on “one”.",
            "You came in {beats} beats late. Count aloud until it begins: the first note is on “one”.", by="number"),
    )  # fmt: skip


class EarlyStart(TimeSlip):
    """The player comes in early."""

    KIND = FindingKind(
        code="early_start", criterion=FLOW, hue=Hue.EARLY, share=FULL,
        teacher=ngettext_lazy("Starts {beats} beat early, then keeps time.", "Starts {beats} beats early, then keeps time.", by="number"),
        student=ngettext_lazy(
            "You came in {beats} beat early. Count the beats aloud until you come in.",
            "You came in {beats} beats early. Count the beats aloud until you come in.", by="number"),
    )  # fmt: skip


class Hesitates(TimeSlip):
    """The player hesitates."""

    KIND = FindingKind(
        code="slip", criterion=FLOW, hue=Hue.LATE, share=SLOW, joins=True,
        teacher=ngettext_lazy(
            "Hesitates before {where}; from there on {beats} beat later.",
            "Hesitates before {where}; from there on {beats} beats later.", by="number"),
        student=gettext_noop("You hesitated before {where}. Practise the move into it slowly, then with the bar before."),
    )  # fmt: skip


class Recovers(TimeSlip):
    """The player comes back to the click."""

    KIND = FindingKind(
        code="recovery", criterion=FLOW,
        teacher=ngettext_lazy(
            "Comes back to the click at {where}, {beats} beat caught up.",
            "Comes back to the click at {where}, {beats} beats caught up.", by="number"),
        student=gettext_noop("At {where} you got back with the click. Well done."),
    )  # fmt: skip


class Restarts(TimeSlip):
    """The player breaks off and starts again."""

    KIND = FindingKind(
        code="restart", criterion=FLOW, hue=Hue.LATE, share=SLOW, joins=True, is_flagged=True,
        teacher=gettext_noop("Breaks off and starts again from {where}."),
        student=gettext_noop("You went back to {where}. When something goes wrong, keep counting and join in again."),
    )  # fmt: skip


class Skips(TimeSlip):
    """Beats are skipped."""

    KIND = FindingKind(
        code="skip", criterion=FLOW, share=SLOW, joins=True,
        teacher=ngettext_lazy("Skips {beats} beat before {where}.{guess}", "Skips {beats} beats before {where}.{guess}", by="number"),
        student=ngettext_lazy(
            "You jumped to {where} and skipped {beats} beat. Read ahead to where the line goes on.",
            "You jumped to {where} and skipped {beats} beats. Read ahead to where the line goes on.", by="number"),
    )  # fmt: skip


class SkipsBar(TimeSlip):
    """A bar or more is skipped."""

    KIND = FindingKind(
        code="skip_bar", criterion=FLOW, share=SLOW, joins=True,
        teacher=ngettext_lazy(
            "Skips the music before {where} ({beats} beat).{guess}",
            "Skips the music before {where} ({beats} beats).{guess}", by="number"),
        student=gettext_noop("You jumped to {where}. Play the bar before it, then the join, until it feels like one line."),
    )  # fmt: skip


class LeavesRepeatOut(TimeSlip):
    """A repeat is left out."""

    KIND = FindingKind(
        code="repeat_left_out", criterion=FLOW, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Leaves the repeat out: goes on at {where}, {beats} beats sooner."),
        student=gettext_noop("You left the repeat out and went on at {where}. Look for the repeat sign before you begin."),
    )  # fmt: skip


class RepeatsMore(TimeSlip):
    """Something is played twice that is not repeated."""

    KIND = FindingKind(
        code="repeat_added", criterion=FLOW, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Plays from {where} on once more, {beats} beats that are not written twice."),
        student=gettext_noop("You played from {where} on a second time. Here the music goes straight on."),
    )  # fmt: skip


TIME_SLIPS: dict[SlipKind, type[TimeSlip]] = {
    SlipKind(slip.KIND.code): slip
    for slip in (
        LateStart, EarlyStart, Hesitates, Recovers, Restarts, Skips, SkipsBar, LeavesRepeatOut, RepeatsMore,
    )
}  # fmt: skip
"""For each way in which time jumps, what is said of it."""


@dataclass(frozen=True, kw_only=True)
class BarsNotAsAsked(Finding):
    """`count` bars, the first of them `where`, have other numbers of notes than is asked for."""

    count: int
    where: int
    asked: int
    """The limit that they do not keep to."""

    UNIT = "bars"

    @property
    def size(self) -> float:
        """Bars."""
        return float(self.count)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the bars and the limit, too."""
        return super().gaps(reader) | {"count": self.count, "where": self.where, "asked": self.asked}


class BarsEmpty(BarsNotAsAsked):
    """Bars without a note."""

    KIND = FindingKind(
        code="bars_empty", criterion=FLOW, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy("Nothing is played in bar {where}.", "Nothing is played in {count} bars, the first bar {where}."),
        student=ngettext_lazy(
            "Bar {where} is empty. One note is enough to keep the music going.",
            "{count} bars are empty, the first bar {where}. One note in each is enough to keep going."),
    )  # fmt: skip


class BarsThin(BarsNotAsAsked):
    """Bars with too few notes."""

    KIND = FindingKind(
        code="bars_thin", criterion=FLOW, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy(
            "Bar {where} has too few notes; the minimum is {asked}.",
            "{count} bars have too few notes, the first of them bar {where}; the minimum is {asked}."),
        student=gettext_noop("Play {asked} notes or more in every bar; in bar {where} there were fewer."),
    )  # fmt: skip


class BarsFull(BarsNotAsAsked):
    """Bars with too many notes."""

    KIND = FindingKind(
        code="bars_full", criterion=FLOW, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy(
            "Bar {where} has too many notes; the maximum is {asked}.",
            "{count} bars have too many notes, the first of them bar {where}; the maximum is {asked}."),
        student=gettext_noop("Play no more than {asked} notes in a bar; in bar {where} there were more. Leave room."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class NotRepeated(Finding):
    """Second bars of pairs do not repeat the first."""

    share: float
    """Of them, those that do."""

    UNIT = "share"
    KIND = FindingKind(
        code="not_repeated", criterion=FLOW, tone=Tone.FACT,
        teacher=gettext_noop("Every second bar should repeat the one before: {percent}% of it does."),
        student=gettext_noop("Every second bar should repeat the one before. Play less in the first, so that you can keep it in mind."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """Share of those that repeat."""
        return self.share

    def gaps(self, reader: Reader) -> Gaps:
        """Return the share in per cent, too."""
        return super().gaps(reader) | {"percent": round(100 * self.share)}
