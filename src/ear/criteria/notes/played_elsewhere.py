"""Ear notes about takes and hands that are not where they are written: another piece, octave or pad."""

from dataclasses import dataclass

from ear.criteria.notes import NOTES
from ear.findings.finding import Finding, OfHand
from ear.findings.gaps import Gaps
from ear.findings.kind import FULL, SLOW, FindingKind, Hue, PlayedOn, Tone
from ear.reader import Reader
from ear.text import gettext_noop
from ear.words.places import describe_interval

HIGHER, LOWER = gettext_noop("higher"), gettext_noop("lower")
HIGH, LOW = gettext_noop("high"), gettext_noop("low")


@dataclass(frozen=True, kw_only=True)
class NotOfThePart(Finding):
    """A take with nothing of the part, of so many notes."""

    played: int

    UNIT = "notes"

    @property
    def size(self) -> float:
        """Notes played."""
        return float(self.played)


class Empty(NotOfThePart):
    """Nothing was played."""

    KIND = FindingKind(
        code="empty", takes_all=True, tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("The take is empty."),
        student=gettext_noop("No notes came in. Press a key: does the page name it? Then record again."),
        student_on={
            PlayedOn.PADS: gettext_noop("No notes came in. Hit a pad: does the page name it? Then record again."),
            PlayedOn.TYPING: gettext_noop("No notes came in. Press one of the letters that play: does the page name the note? Then record again."),
            PlayedOn.SCREEN: gettext_noop("No notes came in. Tap a key on the screen: does the page name it? Then record again."),
        },
    )  # fmt: skip


class Foreign(NotOfThePart):
    """Something else was played."""

    KIND = FindingKind(
        code="foreign", takes_all=True, tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("This take does not match the part: too few notes could be matched."),
        student=gettext_noop("This does not sound like the exercise. Listen to the part once more, then record again."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Shifted(Finding):
    """Notes that sound higher or lower than they are written."""

    semitones: int

    UNIT = "semitones"

    @property
    def size(self) -> float:
        """Semitones, positive up."""
        return float(self.semitones)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the interval and which way it goes, too."""
        is_up = self.semitones > 0
        return super().gaps(reader) | {
            "way": reader.say(HIGHER if is_up else LOWER, {}),
            "way_short": reader.say(HIGH if is_up else LOW, {}),
            "interval": describe_interval(self.semitones, reader),
        }


class Transposed(Shifted):
    """The whole take is in another key or octave."""

    KIND = FindingKind(
        code="transposed", criterion=NOTES, why=("other_key",), is_of_whole=True, tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("The whole take is {interval} {way}; the notes are compared as if it were not."),
        student=gettext_noop("You played everything {interval} {way}. Find the first note again before you record."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Copied(Finding):
    """Nearly every note arrived twice: `count` copies, `semitones` above their notes."""

    semitones: int
    count: int

    UNIT = "notes"

    @property
    def size(self) -> float:
        """Copies."""
        return float(self.count)

    def gaps(self, reader: Reader) -> Gaps:
        """Return their number and how far away they are, too."""
        is_up = self.semitones > 0
        return super().gaps(reader) | {
            "count": self.count, "way": reader.say(HIGHER if is_up else LOWER, {}),
            "interval": describe_interval(self.semitones, reader) if self.semitones else "",
        }  # fmt: skip


class OctaveCopy(Copied):
    """The copies are octaves away."""

    KIND = FindingKind(
        code="octave_copy", takes_all=True, claims_first=True, tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("Set-up: every note arrived a second time, {interval} {way}, as from a second device ({count} copies)."),
        student=gettext_noop("Each note arrived a second time, {interval} {way}. Switch off the second sound on your keyboard, or unplug the second device, and record again."),
    )  # fmt: skip


class SentTwice(Copied):
    """The copies are the same keys."""

    KIND = FindingKind(
        code="sent_twice", takes_all=True, claims_first=True, tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("Set-up: every note arrived twice ({count} copies)."),
        student=gettext_noop("Every note arrived twice. Use one connection to the computer, the cable or Bluetooth, and record again."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class HandOctave(Shifted, OfHand):
    """One hand is in another octave."""

    KIND = FindingKind(
        code="hand_octave", criterion=NOTES, hue=Hue.WRONG, share=FULL, alone=True,
        teacher=gettext_noop("The {hand} hand plays {interval} {way}, all through; its notes are found there."),
        student=gettext_noop("Your {hand} hand is {interval} too {way_short}. Look at its first note on the page and find that key before you begin."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class WrongPads(Finding):
    """Pads that send other numbers than their drums have; `pad`, which is struck `count` of `of` times for a lane, is the
    commonest of `pads`."""

    pad: int
    lane: str
    count: int
    of: int
    pads: int

    UNIT = "pads"

    @property
    def size(self) -> float:
        """Pads."""
        return float(self.pads)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the pad, its lane and the counts, too."""
        return super().gaps(reader) | {
            "pad": self.pad, "lane": reader.gettext(self.lane), "count": self.count, "of": self.of, "pads": self.pads,
        }  # fmt: skip


class PadNumber(WrongPads):
    """One pad sends another number."""

    KIND = FindingKind(
        code="pad_number", criterion=NOTES, hue=Hue.WRONG, share=None, is_flagged=True,
        teacher=gettext_noop("Set-up: pad {pad} is struck where the {lane} is written, {count} of its {of} times. One step sets it."),
        student=gettext_noop("Your pad {pad} seems to be the {lane}, but sends another number. Show this to your teacher, who can put it right in one step."),
    )  # fmt: skip


class PadNumbers(WrongPads):
    """Several pads send other numbers."""

    KIND = FindingKind(
        code="pad_numbers", criterion=NOTES, hue=Hue.WRONG, share=None, is_flagged=True,
        teacher=gettext_noop("Set-up: {pads} pads send other numbers than they should; pad {pad}, for one, is the {lane}. One step sets them."),
        student=gettext_noop("{pads} of your pads send the wrong numbers. Show this to your teacher, who can put it right in one step."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class OnePad(Finding):
    """Everything is played on one pad: `count` strokes, more than have a row."""

    lane: str
    count: int

    UNIT = "notes"
    KIND = FindingKind(
        code="one_pad", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=gettext_noop("All {count} strokes are on one pad, the {lane}; only the rhythm is measured."),
        student=gettext_noop("You played everything on the {lane}. Find each drum first, then play the rhythm on them."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """Strokes."""
        return float(self.count)

    def gaps(self, reader: Reader) -> Gaps:
        """Return the lane and the strokes, too."""
        return super().gaps(reader) | {"lane": reader.gettext(self.lane), "count": self.count}
