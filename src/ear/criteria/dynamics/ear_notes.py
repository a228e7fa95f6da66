"""Ear notes about how loudly notes were played."""

from dataclasses import dataclass

from ear.criteria.dynamics import DYNAMICS
from ear.findings.finding import CountedNotes, Finding, InVelocitySteps, OfHand, OfLane
from ear.findings.gaps import Gaps
from ear.findings.kind import FindingKind, PlayedOn, Tone
from ear.numerals import signed
from ear.reader import Reader
from ear.text import gettext_noop


@dataclass(frozen=True, kw_only=True)
class Accents(Finding):
    """How far accents stand out of their voices, played and written, in velocity steps."""

    played_steps: float
    written_steps: float

    UNIT = "velocity steps"

    @property
    def size(self) -> float:
        """As played."""
        return self.played_steps

    def gaps(self, reader: Reader) -> Gaps:
        """Return both, too."""
        return super().gaps(reader) | {
            "played": signed(self.played_steps), "written": signed(self.written_steps),
        }  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class LoudnessRamp(Finding):
    """Slopes of a crescendo or a diminuendo, played and written, in velocity steps a quarter note."""

    played_slope: float
    written_slope: float

    UNIT = "velocity steps a quarter"

    @property
    def size(self) -> float:
        """As played."""
        return self.played_slope

    def gaps(self, reader: Reader) -> Gaps:
        """Return both, too."""
        return super().gaps(reader) | {
            "played": signed(self.played_slope, 1), "written": signed(self.written_slope, 1),
        }  # fmt: skip


class AccentsFlat(Accents):
    """Accents are not played."""

    KIND = FindingKind(
        code="accents_flat", criterion=DYNAMICS,
        teacher=gettext_noop("Accents are flat: {played} steps of velocity where {written} are written."),
        student=gettext_noop("All notes are about as loud as each other. Make the accented ones stand out, and the others smaller."),
    )  # fmt: skip


class AccentsInverted(Accents):
    """The loud notes are soft."""

    KIND = FindingKind(
        code="accents_inverted", criterion=DYNAMICS,
        teacher=gettext_noop("Accents fall on the wrong notes: {played} steps of velocity where {written} are written."),
        student=gettext_noop("The loud notes are soft and the soft ones loud. Play only the accents first, then fill in."),
    )  # fmt: skip


class Uneven(InVelocitySteps):
    """Notes written alike differ."""

    KIND = FindingKind(
        code="uneven", criterion=DYNAMICS, is_overall=True, tone=Tone.FACT,
        teacher=gettext_noop("Uneven touch: notes written alike differ by {size} steps of velocity."),
        student=gettext_noop("Notes that should be alike come out loud and soft. Play slowly and listen for one even line."),
    )  # fmt: skip


class CrescendoFlat(LoudnessRamp):
    """A crescendo does not rise."""

    KIND = FindingKind(
        code="ramp_flat", criterion=DYNAMICS, claims_first=True,
        teacher=gettext_noop("The crescendo in {bars} does not rise: {played} steps a beat, {written} written."),
        student=gettext_noop("From bar {first} to {last} it should grow. Begin softer than you think, so that there is room."),
    )  # fmt: skip


class DiminuendoFlat(LoudnessRamp):
    """A diminuendo does not fall."""

    KIND = FindingKind(
        code="ramp_flat_down", criterion=DYNAMICS, claims_first=True,
        teacher=gettext_noop("The diminuendo in {bars} does not fall: {played} steps a beat, {written} written."),
        student=gettext_noop("From bar {first} to {last} it should get softer. Begin louder, so that there is room to come down."),
    )  # fmt: skip


class AllLouder(InVelocitySteps):
    """Everything is louder than written."""

    KIND = FindingKind(
        code="all_louder", criterion=DYNAMICS, tone=Tone.FACT,
        teacher=gettext_noop("Everything is louder than written, by {size} steps of velocity."),
        student=gettext_noop("You play everything louder than it is written. Begin softly enough that you can still grow."),
    )  # fmt: skip


class AllSofter(InVelocitySteps):
    """Everything is softer than written."""

    KIND = FindingKind(
        code="all_softer", criterion=DYNAMICS, tone=Tone.FACT,
        teacher=gettext_noop("Everything is softer than written, by {size} steps of velocity."),
        student=gettext_noop("You play everything softer than it is written. Play each note with a little more weight."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class HandLoud(InVelocitySteps, OfHand):
    """A hand covers the other."""

    KIND = FindingKind(
        code="hand_loud", criterion=DYNAMICS, tone=Tone.FACT,
        teacher=gettext_noop("The {hand} hand is too loud against the other, by {size} steps of velocity."),
        student=gettext_noop("Your {hand} hand covers the other. Play it as if from the next room, and listen to the other."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class FingerLoud(InVelocitySteps, OfHand):
    """A finger is heavier than the others of its hand."""

    finger: int

    KIND = FindingKind(
        code="finger_loud", criterion=DYNAMICS, is_of_whole=True, claims_first=True, tone=Tone.FACT,
        teacher=gettext_noop("Finger {finger} of the {hand} hand is too loud, by {size} steps of velocity."),
        student=gettext_noop("Finger {finger} of your {hand} hand is heavier than the others. Play slowly and let it fall, not push."),
    )  # fmt: skip

    def gaps(self, reader: Reader) -> Gaps:
        """Return the finger, too."""
        return super().gaps(reader) | {"finger": self.finger}


@dataclass(frozen=True, kw_only=True)
class LaneLoud(InVelocitySteps, OfLane):
    """A lane covers the others."""

    KIND = FindingKind(
        code="lane_loud", criterion=DYNAMICS, tone=Tone.FACT, alone=True,
        teacher=gettext_noop("The {lane} is too loud against the rest, by {size} steps of velocity."),
        student=gettext_noop("Your {lane} covers the rest. Play it from lower down, with less stick."),
        student_on={
            PlayedOn.KEYS: gettext_noop("Your {lane} covers the rest. Press its key more gently."),
            PlayedOn.TYPING: gettext_noop("Your {lane} covers the rest. Play it more softly."),
            PlayedOn.SCREEN: gettext_noop("Your {lane} covers the rest. Tap it closer to its edge, where it is softer."),
        },
    )  # fmt: skip


class WellAccents(CountedNotes):
    """Accents are where they are written."""

    KIND = FindingKind(
        code="well_accents", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("Accents are where they are written."),
        student=gettext_noop("Your accents are where they are written."),
    )  # fmt: skip
