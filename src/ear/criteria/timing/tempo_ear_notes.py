"""Ear notes about the tempo: another one than the click's, or one that moves."""

from dataclasses import dataclass

from ear.criteria.timing import TIMING
from ear.findings.finding import Finding
from ear.findings.gaps import Gaps, give_or_take, magnitude
from ear.findings.kind import FULL, SLOW, FindingKind, Hue, Tone
from ear.numerals import decimal
from ear.reader import Reader
from ear.text import gettext_noop, ngettext_lazy
from ear.words.phrases import half_up


@dataclass(frozen=True, kw_only=True)
class Drift(Finding):
    """A take that gets faster or slower from bar to bar; the tempo that it comes to, and the click's, in quarters a
    minute."""

    rate_ms_per_bar: float
    error_ms_per_bar: float | None = None
    """None in what an older version measured."""
    played_bpm: float
    click_bpm: float

    UNIT = "ms per bar"

    @property
    def size(self) -> float:
        """How much later each bar comes, negative earlier."""
        return self.rate_ms_per_bar

    def gaps(self, reader: Reader) -> Gaps:
        """Return the rate with its error, and both tempos, too."""
        return super().gaps(reader) | {
            "rate": magnitude(self.rate_ms_per_bar), "give": give_or_take(self.error_ms_per_bar, reader),
            "bpm": decimal(self.played_bpm, 1), "click": decimal(self.click_bpm, 2),
        }  # fmt: skip


class Rushing(Drift):
    """It gets faster."""

    KIND = FindingKind(
        code="rushing", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("Rushes: {rate}{give} ms earlier with every bar, {bpm} against the click’s {click}."),
        student=gettext_noop("You speed up little by little. Count aloud, and give every beat its full time."),
    )  # fmt: skip


class Dragging(Drift):
    """It gets slower."""

    KIND = FindingKind(
        code="dragging", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=gettext_noop("Drags: {rate}{give} ms later with every bar, {bpm} against the click’s {click}."),
        student=gettext_noop("You slow down little by little. Count aloud and keep the beat going through long notes."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class OwnTempo(Finding):
    """A steady take at another tempo than the click's, both in quarters a minute."""

    ratio: float
    """Of the tempo played to the tempo set."""
    played_bpm: float
    click_bpm: float

    UNIT = "ratio"
    KIND = FindingKind(
        code="own_tempo", criterion=TIMING, tone=Tone.FACT, share=FULL,
        teacher=gettext_noop("Played at {bpm}, not with the click at {click}; its notes are measured against the player’s own pulse, too."),
        student=gettext_noop("You played at {bpm} while the click was at {click}. Wait for two bars of click, move with it, then begin."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """The ratio."""
        return self.ratio

    def gaps(self, reader: Reader) -> Gaps:
        """Return both tempos, too."""
        return super().gaps(reader) | {
            "bpm": decimal(self.played_bpm, 1), "click": decimal(self.click_bpm, 2),
        }  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class TempoMoved(Finding):
    """A tempo that is another afterwards, in quarters a minute."""

    first_bpm: float
    last_bpm: float

    UNIT = "ratio"

    @property
    def size(self) -> float:
        """The last to the first."""
        return self.last_bpm / self.first_bpm

    def gaps(self, reader: Reader) -> Gaps:
        """Return both tempos, too."""
        return super().gaps(reader) | {
            "tempo_first": half_up(self.first_bpm), "tempo_last": half_up(self.last_bpm),
        }  # fmt: skip


class Slows(TempoMoved):
    """A take slows down evenly, from beginning to end."""

    KIND = FindingKind(
        code="slows", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=gettext_noop("Slows evenly, from {tempo_first} to {tempo_last}; its notes are measured against that."),
        student=gettext_noop("You began at {tempo_first} and ended at {tempo_last}. Keep counting in your head at the tempo of your first bar."),
    )  # fmt: skip


class Hurries(TempoMoved):
    """A take speeds up evenly, from beginning to end."""

    KIND = FindingKind(
        code="hurries", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("Gets evenly faster, from {tempo_first} to {tempo_last}; its notes are measured against that."),
        student=gettext_noop("You began at {tempo_first} and ended at {tempo_last}. Start more slowly than you think you need to, and stay there."),
    )  # fmt: skip


class SlowsIntoEnd(TempoMoved):
    """The last bars slow down."""

    KIND = FindingKind(
        code="slows_end", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=gettext_noop("Slows into the end, from {tempo_first} to {tempo_last} in {bars}."),
        student=gettext_noop("You slowed down into the end, from {tempo_first} to {tempo_last}. Count the last bars at the tempo of the ones before."),
    )  # fmt: skip


class HurriesIntoEnd(TempoMoved):
    """The last bars speed up."""

    KIND = FindingKind(
        code="hurries_end", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("Gets faster into the end, from {tempo_first} to {tempo_last} in {bars}."),
        student=gettext_noop("You got faster into the end, from {tempo_first} to {tempo_last}. Play the last bars as calmly as the first."),
    )  # fmt: skip


class SlowsInBars(TempoMoved):
    """Some bars slow down."""

    KIND = FindingKind(
        code="slows_bars", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=gettext_noop("Slows down in {bars}, from {tempo_first} to {tempo_last}."),
        student=gettext_noop("You slowed down in {bars}, from {tempo_first} to {tempo_last}. Play them by themselves at an even tempo, then with the bars before."),
    )  # fmt: skip


class HurriesInBars(TempoMoved):
    """Some bars speed up."""

    KIND = FindingKind(
        code="hurries_bars", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("Gets faster in {bars}, from {tempo_first} to {tempo_last}."),
        student=gettext_noop("You got faster in {bars}, from {tempo_first} to {tempo_last}. Count aloud through them."),
    )  # fmt: skip


class SlowerBars(TempoMoved):
    """Some bars are slower than those about them."""

    KIND = FindingKind(
        code="slower_bars", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, share=SLOW,
        teacher=gettext_noop("Slower in {bars}: {tempo_last}, and {tempo_first} around them."),
        student=gettext_noop("You were slower in {bars}. Practise them alone until they go at {tempo_first} like the rest."),
    )  # fmt: skip


class FasterBars(TempoMoved):
    """Some bars are faster than those about them."""

    KIND = FindingKind(
        code="faster_bars", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("Faster in {bars}: {tempo_last}, and {tempo_first} around them."),
        student=gettext_noop("You were faster in {bars}. Count aloud through them at {tempo_first}."),
    )  # fmt: skip


class SlowerFrom(TempoMoved):
    """It is slower from a bar on."""

    KIND = FindingKind(
        code="slower_from", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=gettext_noop("Slower from bar {first} onwards: {tempo_last} instead of {tempo_first}."),
        student=gettext_noop("From bar {first} on you were slower, {tempo_last} and not {tempo_first}. Play the bar before it and go on counting."),
    )  # fmt: skip


class FasterFrom(TempoMoved):
    """It is faster from a bar on."""

    KIND = FindingKind(
        code="faster_from", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("From bar {first} on faster, at {tempo_last}; before that at {tempo_first}."),
        student=gettext_noop("From bar {first} on you were faster, {tempo_last} and not {tempo_first}. Play the bar before it and go on counting."),
    )  # fmt: skip


class TempoChangeIgnored(TempoMoved):
    """A written change of tempo is not made: `first_bpm` is played where `last_bpm` is written."""

    KIND = FindingKind(
        code="tempo_change_ignored", criterion=TIMING, tone=Tone.FACT, share=FULL,
        teacher=gettext_noop("Plays {tempo_first} in {bars} where {tempo_last} is written."),
        student=gettext_noop("In {bars} the tempo changes to {tempo_last}, and you stayed at {tempo_first}. Listen to the click there first, then play along."),
    )  # fmt: skip


class TempoMoves(TempoMoved):
    """The tempo moves, between these two."""

    KIND = FindingKind(
        code="tempo_moves", criterion=TIMING, tone=Tone.FACT, share=FULL,
        teacher=gettext_noop("The tempo moves, between {tempo_first} and {tempo_last}; its notes are measured against that."),
        student=gettext_noop("Your tempo moves between {tempo_first} and {tempo_last}. Tap the beat with your foot and stay with it."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class SlowerAndLost(TempoMoved):
    """Some bars are slower than those about them, and `count` of their notes are missed or wrong."""

    count: int

    KIND = FindingKind(
        code="slower_lost", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, share=SLOW,
        teacher=ngettext_lazy(
            "Slower in {bars}, {tempo_last} instead of {tempo_first}, where {count} note is missed or wrong.",
            "Slower in {bars}, {tempo_last} instead of {tempo_first}, where {count} notes are missed or wrong."),
        student=gettext_noop("In {bars} you slowed down and lost notes. Find them first without minding the time, then play them slowly in time."),
    )  # fmt: skip

    def gaps(self, reader: Reader) -> Gaps:
        """Return the number of notes lost, too."""
        return super().gaps(reader) | {"count": self.count}
