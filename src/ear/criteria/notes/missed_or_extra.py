"""Ear notes about notes that are missing, and about those that are too many."""

from dataclasses import dataclass

from ear.criteria.notes import NOTES
from ear.findings.finding import CountedNotes, Finding, OfHand, OfLane
from ear.findings.gaps import Gaps
from ear.findings.kind import SLOW, FindingKind, Hue, PlayedOn, Tone
from ear.notes import Ornament
from ear.notes.ending import Ending
from ear.reader import Reader
from ear.text import Text, gettext_noop, ngettext_lazy

MISHAPS = {
    Ending.UNPLUGGED: gettext_noop("the instrument was unplugged"), Ending.CLOSED: gettext_noop("the page was closed"),
    Ending.STALLED: gettext_noop("the computer’s sound stopped"),
}  # fmt: skip
ORNAMENTS: dict[Ornament, Text] = {
    Ornament.FLAM: ngettext_lazy("a flam", "{count} flams"),
    Ornament.DRAG: ngettext_lazy("a drag", "{count} drags"),
    Ornament.ROLL: ngettext_lazy("a roll", "{count} rolls"),
    Ornament.TRILL: ngettext_lazy("a trill", "{count} trills"),
    Ornament.MORDENT: ngettext_lazy("a mordent", "{count} mordents"),
    Ornament.UPPER_MORDENT: ngettext_lazy("an upper mordent", "{count} upper mordents"),
    Ornament.TURN: ngettext_lazy("a turn", "{count} turns"),
    Ornament.GRACE: ngettext_lazy("a grace note", "{count} grace notes"),
}


class Missed(CountedNotes):
    """Notes that were not played."""

    KIND = FindingKind(
        code="missed", takes_all=True, share=SLOW,
        teacher=ngettext_lazy("One note is missing in {bars}.", "{count} notes are missing in {bars}."),
        student=ngettext_lazy(
            "A note is missing in {bars}. Listen to the part there once more.",
            "{count} notes are missing in {bars}. Listen there once more and play along."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class VoiceLeftOut(CountedNotes):
    """Most notes of a voice were not played: `count` of `of`."""

    of: int

    def gaps(self, reader: Reader) -> Gaps:
        """Return how many there are, too."""
        return super().gaps(reader) | {"of": self.of}


@dataclass(frozen=True, kw_only=True)
class MissedHand(VoiceLeftOut, OfHand):
    """A hand is left out."""

    KIND = FindingKind(
        code="missed_hand", takes_all=True, share=SLOW, alone=True,
        teacher=gettext_noop("The {hand} hand is left out: {count} of its {of} notes."),
        student=gettext_noop("Your {hand} hand is missing. Play it alone first, slowly, then add the other."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class MissedLane(VoiceLeftOut, OfLane):
    """A lane is left out."""

    KIND = FindingKind(
        code="missed_lane", takes_all=True, share=SLOW, alone=True,
        teacher=gettext_noop("The {lane} is left out: {count} of {of} hits."),
        student=gettext_noop("The {lane} is missing. Check that its pad answers, then play it alone before you add the rest."),
        student_on={
            PlayedOn.KEYS: gettext_noop("The {lane} is missing. Check which key plays it, then play it alone before you add the rest."),
            PlayedOn.TYPING: gettext_noop("The {lane} is missing. Check which typing key plays it, then play it alone before you add the rest."),
            PlayedOn.SCREEN: gettext_noop("The {lane} is missing. Find it on the screen, then play it alone before you add the rest."),
        },
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class EndsEarly(Finding):
    """Nothing is played after a bar: `bars_left` before the end."""

    after: int
    bars_left: int

    UNIT = "bars"

    @property
    def size(self) -> float:
        """Bars left."""
        return float(self.bars_left)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the last bar and how many are left, too."""
        return super().gaps(reader) | {"count": self.bars_left, "after": self.after}


class Unfinished(EndsEarly):
    """The player stopped."""

    KIND = FindingKind(
        code="unfinished", takes_all=True,
        teacher=ngettext_lazy("Ends after bar {after}, {count} bar before the end.", "Ends after bar {after}, {count} bars before the end."),
        student=gettext_noop("You stopped after bar {after}. Next time play on to the last bar, whatever happens on the way."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class CutOff(EndsEarly):
    """The recording broke off."""

    ending: Ending

    KIND = FindingKind(
        code="cut_off", takes_all=True, tone=Tone.FACT, share=None,
        teacher=ngettext_lazy(
            "The recording ends after bar {after}, {count} bar before the end: {why}.",
            "The recording ends after bar {after}, {count} bars before the end: {why}."),
        student=gettext_noop("The recording ends after bar {after}: {why}. That was not you; record it once more."),
    )  # fmt: skip

    def gaps(self, reader: Reader) -> Gaps:
        """Return the reason, too."""
        return super().gaps(reader) | {"why": reader.say(MISHAPS[self.ending], {})}


class Doubles(CountedNotes):
    """Notes struck twice."""

    KIND = FindingKind(
        code="doubles", criterion=NOTES, hue=Hue.WRONG,
        teacher=ngettext_lazy(
            "One double hit: an unintended second note straight after the first.",
            "{count} double hits: an unintended second note straight after the first."),
        student=ngettext_lazy(
            "One note sounded twice. Lift the finger fully before you play the key again.",
            "{count} notes sounded twice. Lift the finger fully before you play the key again."),
        student_on={
            PlayedOn.PADS: ngettext_lazy(
                "One note sounded twice. Let the stick bounce away from the pad after each stroke.",
                "{count} notes sounded twice. Let the stick bounce away from the pad after each stroke."),
            PlayedOn.SCREEN: ngettext_lazy(
                "One note sounded twice. Tap each key once, with one finger.",
                "{count} notes sounded twice. Tap each key once, with one finger."),
        },
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Ornaments(Finding):
    """Ornaments that are not written: `in_all`, of which the commonest sort is there `count` times."""

    ornament: Ornament
    count: int
    in_all: int

    UNIT = "ornaments"

    @property
    def size(self) -> float:
        """All of them."""
        return float(self.in_all)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the commonest sort and the numbers, too."""
        ornaments = reader.say(ORNAMENTS[self.ornament], {"count": self.count})
        return super().gaps(reader) | {"ornaments": ornaments, "all": self.in_all}


class OrnamentAdded(Ornaments):
    """Ornaments of one sort are added."""

    KIND = FindingKind(
        code="ornament_added", criterion=NOTES, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Adds {ornaments} in {bars}; none is written there."),
        student=gettext_noop("You added {ornaments} in {bars}. It sounds like a choice: ask whether it may stay, or play the plain notes."),
    )  # fmt: skip


class OrnamentsAdded(Ornaments):
    """Ornaments of several sorts are added."""

    KIND = FindingKind(
        code="ornaments_added", criterion=NOTES, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Adds {all} ornaments in {bars}, among them {ornaments}; none is written there."),
        student=gettext_noop("You added {all} ornaments in {bars}. They sound like a choice: ask whether they may stay, or play the plain notes."),
    )  # fmt: skip


class SecondPass(CountedNotes):
    """A second pass was recorded over the first."""

    KIND = FindingKind(
        code="second_pass", criterion=NOTES, tone=Tone.FACT, hue=Hue.WRONG, share=None, is_flagged=True,
        teacher=gettext_noop("Played twice over {bars} in one take: only one pass is measured."),
        student=gettext_noop("In {bars} you recorded a second time over the first. Begin a new take, and stop it before you play again."),
    )  # fmt: skip


class CountInPlayed(CountedNotes):
    """Notes were played before the beginning."""

    KIND = FindingKind(
        code="count_in_played", tone=Tone.FACT, share=None,
        teacher=ngettext_lazy("Plays one note into the count-in; it costs nothing.", "Plays {count} notes into the count-in; they cost nothing."),
        student=gettext_noop("You played into the count-in. Keep still, count along, and come in on the very next “one”."),
    )  # fmt: skip


class Grazes(CountedNotes):
    """Keys were brushed."""

    KIND = FindingKind(
        code="grazes", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy(
            "One brushed key: a short, light touch beside the notes that were meant.",
            "{count} brushed keys: short, light touches beside the notes that were meant."),
        student=ngettext_lazy(
            "You brushed a note beside the right one. Curve the fingers and aim for the middle of the key.",
            "You brushed {count} notes beside the right ones. Curve the fingers and aim for the middle of the key."),
        student_on={
            PlayedOn.PADS: ngettext_lazy(
                "You brushed a pad beside the right one. Aim for the middle of the pad.",
                "You brushed {count} pads beside the right ones. Aim for the middle of the pad."),
            PlayedOn.TYPING: ngettext_lazy(
                "You brushed a key beside the right one. Keep each finger over its own letter.",
                "You brushed {count} keys beside the right ones. Keep each finger over its own letter."),
            PlayedOn.SCREEN: ngettext_lazy(
                "You touched a key beside the right one. Tap the middle of each key.",
                "You touched {count} keys beside the right ones. Tap the middle of each key."),
        },
    )  # fmt: skip


class Extras(CountedNotes):
    """Notes that are not in the part."""

    KIND = FindingKind(
        code="extras", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One extra note that is not in the part.", "{count} extra notes that are not in the part."),
        student=ngettext_lazy(
            "One note is not in the part. Listen to it once more and leave it out.",
            "{count} notes are not in the part. Listen to it once more and leave them out."),
    )  # fmt: skip


class BeyondEnd(CountedNotes):
    """Notes after the last bar."""

    KIND = FindingKind(
        code="beyond_end", criterion=NOTES,
        teacher=ngettext_lazy("One note after the last bar.", "{count} notes after the last bar."),
        student=gettext_noop("Stop after the last bar: anything you play after it is recorded too."),
    )  # fmt: skip
