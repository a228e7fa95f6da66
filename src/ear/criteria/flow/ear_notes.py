"""Ear notes about whether the music kept going: jumps, repeats, bars with too few or too many notes."""

from dataclasses import dataclass, replace
from typing import ClassVar, Self

from ear.criteria.flow import FLOW
from ear.criteria.notes import NOTES
from ear.criteria.timing import TIMING
from ear.findings.finding import CountedNotes, Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER, FULL, SLOW, Claim, FindingKind, Hue, PlayedOn, Tone
from ear.findings.place_in_bar import PlaceInBar
from ear.matching.outcome import SlipKind
from ear.numerals import decimal
from ear.reader import Reader
from ear.text import Text, gettext_noop, ngettext_lazy
from ear.words.places import BAR_AND_PLACE

OFF_FROM_BEATS = 0.1
"""So far beside a beat of the click a listener hears that the player is off it."""
ORDINALS = {
    2: gettext_noop("second"), 3: gettext_noop("third"), 4: gettext_noop("fourth"), 5: gettext_noop("fifth"),
    6: gettext_noop("sixth"), 7: gettext_noop("seventh"), 8: gettext_noop("eighth"), 9: gettext_noop("ninth"),
}  # fmt: skip
LAST_ATTEMPT = gettext_noop("last")
"""Beyond the ninth nobody counts."""
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
    off_beats: float = 0.0
    """How far beside a beat of the click the player stands from there on, without its sign; 0 where he is with it."""
    beside: tuple[int, ...] = ()
    """Rows that stand beside the click on its account."""
    left_out: tuple[int, ...] = ()
    """Rows that were jumped over."""

    OFF_CLICK: ClassVar[Text | None] = None
    """For a teacher, where the player is off the click from there on."""
    UNIT = "quarters"

    @property
    def size(self) -> float:
        """In quarter notes, positive later."""
        return self.quarters

    @property
    def quarter(self) -> float:
        """Where it is."""
        return self.quarter_in_part

    def text(self, to: str, played_on: PlayedOn) -> Text:
        """Return the sentence; a teacher is told of the time after it, too."""
        is_off = to == FOR_TEACHER and self.off_beats >= OFF_FROM_BEATS
        return self.OFF_CLICK if is_off and self.OFF_CLICK else super().text(to, played_on)

    def claims(self) -> tuple[Claim, ...]:
        """Return the break itself, what standing beside the click cost from there on, and all that was jumped over."""
        return (
            *super().claims(),
            Claim(rows=self.beside, criterion=TIMING, why=("beside",)),
            Claim(rows=self.left_out),
        )

    def without_rows(self) -> Self:
        """Return the finding as lists show it: its sentence, without its evidence."""
        return replace(super().without_rows(), beside=(), left_out=())

    def gaps(self, reader: Reader) -> Gaps:
        """Return the place, the beats and whether it is a guess, too."""
        place = {"bar": self.bar, "place": self.at.describe(reader)}
        return super().gaps(reader) | {
            "where": reader.say(BAR_AND_PLACE, place),
            "number": self.beats,
            "beats": decimal(self.beats, 1 if self.beats < 10 else 0),
            "off": decimal(self.off_beats, 1),
            "guess": reader.say(A_GUESS, {}) if self.is_guess else "",
        }


class LateStart(TimeSlip):
    """The player comes in late."""

    KIND = FindingKind(
        code="late_start", criterion=FLOW, claims_first=True, hue=Hue.LATE, share=FULL,
        teacher=ngettext_lazy("Starts {beats} beat late, then keeps time.", "Starts {beats} beats late, then keeps time.", by="number"),
        student=ngettext_lazy(
            "You came in {beats} beat late. Count aloud until it begins: the first note is on “one”.",
            "You came in {beats} beats late. Count aloud until it begins: the first note is on “one”.", by="number"),
    )  # fmt: skip


class EarlyStart(TimeSlip):
    """The player comes in early."""

    KIND = FindingKind(
        code="early_start", criterion=FLOW, claims_first=True, hue=Hue.EARLY, share=FULL,
        teacher=ngettext_lazy("Starts {beats} beat early, then keeps time.", "Starts {beats} beats early, then keeps time.", by="number"),
        student=ngettext_lazy(
            "You came in {beats} beat early. Count the beats aloud until you come in.",
            "You came in {beats} beats early. Count the beats aloud until you come in.", by="number"),
    )  # fmt: skip


class Hesitates(TimeSlip):
    """The player hesitates."""

    KIND = FindingKind(
        code="slip", criterion=FLOW, claims_first=True, hue=Hue.LATE, share=SLOW, joins=True,
        teacher=ngettext_lazy(
            "Hesitates before {where}; from there on {beats} beat later.",
            "Hesitates before {where}; from there on {beats} beats later.", by="number"),
        student=gettext_noop("You hesitated before {where}. Practise the move into it slowly, then with the bar before."),
    )  # fmt: skip
    OFF_CLICK = gettext_noop("Hesitates before {where}; from there on {off} of a beat off the click.")


class Recovers(TimeSlip):
    """The player comes back to the click."""

    KIND = FindingKind(
        code="recovery", criterion=FLOW, claims_first=True,
        teacher=ngettext_lazy(
            "Comes back to the click at {where}, {beats} beat caught up.",
            "Comes back to the click at {where}, {beats} beats caught up.", by="number"),
        student=gettext_noop("At {where} you got back with the click. Well done."),
    )  # fmt: skip


class OffClick(TimeSlip):
    """The player comes in between the beats of the click, and stays there."""

    KIND = FindingKind(
        code="off_click", criterion=FLOW, claims_first=True, share=FULL,
        teacher=gettext_noop("Comes in {off} of a beat off the click and stays there."),
        student=gettext_noop("You came in between two clicks and stayed there. Count the beats aloud: the first note is on “one”."),
    )  # fmt: skip

    def claims(self) -> tuple[Claim, ...]:
        """Return all that these rows lost by their time, too: near the click, they are late or early, not beside it."""
        return (*super().claims(), Claim(rows=self.beside, criterion=TIMING))


class LastNoteLate(TimeSlip):
    """The last note or chord is held back."""

    KIND = FindingKind(
        code="last_note_late", criterion=FLOW, claims_first=True, hue=Hue.LATE,
        teacher=ngettext_lazy(
            "Holds the last note back by {beats} beat.", "Holds the last note back by {beats} beats.", by="number"),
        student=gettext_noop("Your last note came late. Keep counting until you have played it."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Restarts(TimeSlip):
    """The player breaks off and starts again; at attempt `attempts` he goes on."""

    attempts: int = 2

    KIND = FindingKind(
        code="restart", criterion=FLOW, claims_first=True, hue=Hue.LATE, share=SLOW, joins=True, is_flagged=True,
        teacher=gettext_noop("Breaks off and starts again from {where}."),
        student=gettext_noop("You went back to {where}. When something goes wrong, keep counting and join in again."),
    )  # fmt: skip
    OFF_CLICK = gettext_noop(
        "Breaks off and starts again from {where}; from there on {off} of a beat off the click."
    )
    AT_LAST = gettext_noop("Gets through {where} only at the {nth} attempt.")

    def text(self, to: str, played_on: PlayedOn) -> Text:
        """Return the sentence; a teacher is told the number of attempts where there were several."""
        return self.AT_LAST if to == FOR_TEACHER and self.attempts > 2 else super().text(to, played_on)

    def claims(self) -> tuple[Claim, ...]:
        """Return what was broken off, too, if it cost anything."""
        return (*super().claims(), Claim(rows=self.rows, criterion=NOTES))

    def gaps(self, reader: Reader) -> Gaps:
        """Return the attempt, too."""
        nth = ORDINALS.get(self.attempts, LAST_ATTEMPT)
        return super().gaps(reader) | {"nth": reader.say(nth, {})}


class Skips(TimeSlip):
    """Beats are skipped."""

    KIND = FindingKind(
        code="skip", criterion=FLOW, claims_first=True, share=SLOW, joins=True,
        teacher=ngettext_lazy("Skips {beats} beat before {where}.{guess}", "Skips {beats} beats before {where}.{guess}", by="number"),
        student=ngettext_lazy(
            "You jumped to {where} and skipped {beats} beat. Read ahead to where the line goes on.",
            "You jumped to {where} and skipped {beats} beats. Read ahead to where the line goes on.", by="number"),
    )  # fmt: skip


class SkipsBar(TimeSlip):
    """A bar or more is skipped."""

    KIND = FindingKind(
        code="skip_bar", criterion=FLOW, claims_first=True, share=SLOW, joins=True,
        teacher=ngettext_lazy(
            "Skips the music before {where} ({beats} beat).{guess}",
            "Skips the music before {where} ({beats} beats).{guess}", by="number"),
        student=gettext_noop("You jumped to {where}. Play the bar before it, then the join, until it feels like one line."),
    )  # fmt: skip


class LeavesRepeatOut(TimeSlip):
    """A repeat is left out."""

    KIND = FindingKind(
        code="repeat_left_out", criterion=FLOW, claims_first=True, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Leaves the repeat out: goes on at {where}, {beats} beats sooner."),
        student=gettext_noop("You left the repeat out and went on at {where}. Look for the repeat sign before you begin."),
    )  # fmt: skip


class RepeatsMore(TimeSlip):
    """Something is played twice that is not repeated."""

    KIND = FindingKind(
        code="repeat_added", criterion=FLOW, claims_first=True, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Plays from {where} on once more, {beats} beats that are not written twice."),
        student=gettext_noop("You played from {where} on a second time. Here the music goes straight on."),
    )  # fmt: skip


TIME_SLIPS: dict[SlipKind, type[TimeSlip]] = {
    SlipKind(slip.KIND.code): slip
    for slip in (
        LateStart, EarlyStart, Hesitates, Recovers, Restarts, LastNoteLate, Skips, SkipsBar, LeavesRepeatOut,
        RepeatsMore,
    )
}  # fmt: skip
"""For each way in which time jumps, what is said of it, where it is said by itself."""


@dataclass(frozen=True, kw_only=True)
class Halting(Finding):
    """Several short stops, `least_s` to `most_s` long."""

    count: int
    least_s: float
    most_s: float
    is_each_bar: bool
    """Before most bars."""
    beside: tuple[int, ...] = ()
    """Rows that stand beside the click on their account."""

    UNIT = "stops"
    KIND = FindingKind(
        code="halting", criterion=FLOW, claims_first=True, hue=Hue.LATE, share=SLOW,
        teacher=gettext_noop("Stops {count} times, for {least} to {most} s."),
        student=gettext_noop("The music stops for a moment again and again. Play it more slowly, so slowly that you need not stop."),
    )  # fmt: skip
    EACH_BAR = {
        FOR_TEACHER: gettext_noop("Stops before each bar for {least} to {most} s."),
        FOR_STUDENT: gettext_noop(
            "The music stops for a moment before each bar. Look ahead: while you play one bar, read the next one."
        ),
    }

    @property
    def size(self) -> float:
        """How many stops."""
        return float(self.count)

    def text(self, to: str, played_on: PlayedOn) -> Text:
        """Return the sentence, which names the bar lines where the stops are there."""
        return self.EACH_BAR[to] if self.is_each_bar else super().text(to, played_on)

    def gaps(self, reader: Reader) -> Gaps:
        """Return their number and lengths, too."""
        return super().gaps(reader) | {
            "count": self.count, "least": decimal(self.least_s, 1), "most": decimal(self.most_s, 1),
        }  # fmt: skip

    def claims(self) -> tuple[Claim, ...]:
        """Return what standing beside the click cost, too."""
        return (*super().claims(), Claim(rows=self.beside, criterion=TIMING, why=("beside",)))

    def without_rows(self) -> Self:
        """Return the finding as lists show it: its sentence, without its evidence."""
        return replace(super().without_rows(), beside=())


@dataclass(frozen=True, kw_only=True)
class PutRight(CountedNotes):
    """Wrong keys, each followed at once by the right one: `rows` are the wrong ones."""

    stops: tuple[int, ...] = ()
    """Rows of right keys for which the music waited."""
    beside: tuple[int, ...] = ()
    """Rows that stand beside the click on their account."""

    KIND = FindingKind(
        code="put_right", criterion=NOTES, claims_first=True, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One wrong key in {bars}, corrected straight away.", "{count} wrong keys in {bars}, each corrected straight away."),
        student=ngettext_lazy(
            "You heard a wrong key and put it right. Next time let it go and play on.",
            "You heard {count} wrong keys and put them right. Next time let them go and play on."),
        student_on={
            PlayedOn.PADS: ngettext_lazy(
                "You heard a wrong stroke and put it right. Next time let it go and play on.",
                "You heard {count} wrong strokes and put them right. Next time let them go and play on."),
        },
    )  # fmt: skip

    def claims(self) -> tuple[Claim, ...]:
        """Return the stops and what standing beside the click cost, too."""
        return (
            *super().claims(),
            Claim(rows=self.stops, criterion=FLOW),
            Claim(rows=self.beside, criterion=TIMING, why=("beside",)),
            Claim(rows=self.stops, criterion=TIMING),
        )

    def without_rows(self) -> Self:
        """Return the finding as lists show it: its sentence, without its evidence."""
        return replace(super().without_rows(), stops=(), beside=())
