"""What holds where a bar begins, read in the order in which bars are written: repeats go back to it.

And how long each bar is, over all parts: a bar that one part leaves short is as long as the others have it, so
that parts never shift against one another.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from xml.etree.ElementTree import Element

from ear.errors import FormatError, ValueOutOfRange
from ear.formats import limits
from ear.formats.account import ImportLosses, Lost
from ear.formats.musicxml import words
from ear.formats.musicxml.elements import number_of, whole_of
from ear.notes import Meter
from ear.notes.part import MAX_FIFTHS
from ear.text import term
from ear.units import TICKS_PER_QUARTER

FINE = 1_000_000
"""Denominators above this say nothing about music, and grow without end when they are added up."""
MAX_ROUNDING = Fraction(1, 8)
"""Of a duration, the share that rounding to divisions may have changed."""
BASES = {name: base for base, name in words.TYPES.items()}
COMMON = Meter(numerator=4, denominator=4)


@dataclass(frozen=True, slots=True, kw_only=True)
class AttributesState:
    """What attributes say, from where they stand on."""

    meter: Meter = COMMON
    divisions: Fraction = Fraction(1)
    fifths: int = 0
    transpose: int = 0
    renamed: int = 0
    """Fifths from what is written to what sounds, of instruments that transpose."""
    staves: int = 1
    is_percussion: bool = False

    def after(
        self, attributes: Element, account: ImportLosses | None = None, bar: int | None = None
    ) -> "AttributesState":
        """Return the state after an `attributes` element. Raises FormatError."""
        state = self
        divisions = number_of(attributes.findtext("divisions"))
        if divisions is not None and divisions > 0:
            state = replace(state, divisions=divisions)
        fifths = whole_of(attributes.findtext("key/fifths"))
        if fifths is not None:
            if abs(fifths) > MAX_FIFTHS:
                raise FormatError(expected=term("a key of up to 7 signs"), actual=f"{fifths}")
            state = replace(state, fifths=fifths)
        staves = whole_of(attributes.findtext("staves"))
        if staves:
            state = replace(state, staves=staves)
        time = attributes.find("time")
        if time is not None:
            meter = _meter(time)
            if meter is None and account is not None:
                account.lose(Lost.NO_TIME, bar)
            state = replace(state, meter=meter or state.meter)
        transpose = attributes.find("transpose")
        if transpose is not None:
            chromatic = whole_of(transpose.findtext("chromatic")) or 0
            octaves = whole_of(transpose.findtext("octave-change")) or 0
            state = replace(state, transpose=chromatic + 12 * octaves, renamed=(7 * chromatic + 6) % 12 - 6)
        if attributes.findtext("clef/sign") == "percussion":
            state = replace(state, is_percussion=True)
        return state

    def ticks(self, element: Element) -> Fraction:
        """Return the `duration` of an element in ticks. Raises FormatError."""
        duration = number_of(element.findtext("duration"))
        if duration is None:
            return Fraction(0)
        ticks = duration * TICKS_PER_QUARTER / self.divisions
        if not 0 <= ticks <= limits.BAR_QUARTERS * TICKS_PER_QUARTER:
            raise limits.too_much("quarters in a bar", limits.BAR_QUARTERS)
        return tame(ticks)

    def note_ticks(self, element: Element) -> Fraction:
        """Return how long a note or a rest is, in ticks: as its value says, where the duration is that but for rounding to
        divisions. Raises FormatError.
        """
        ticks = self.ticks(element)
        base = BASES.get(element.findtext("type") or "")
        if base is None:
            return ticks
        written = Fraction(4 * TICKS_PER_QUARTER, base) * (2 - Fraction(1, 1 << len(element.findall("dot"))))
        notes = whole_of(element.findtext("time-modification/actual-notes"))
        normal = whole_of(element.findtext("time-modification/normal-notes"))
        if notes and normal:
            written = written * normal / notes
        rounding = min(TICKS_PER_QUARTER / self.divisions, MAX_ROUNDING * ticks)
        return tame(written) if abs(written - ticks) <= rounding else ticks


def tame(value: Fraction) -> Fraction:
    """Return the fraction, or one very near to it with a denominator small enough to calculate with."""
    return value if value.denominator <= FINE else value.limit_denominator(FINE)


def _meter(time: Element) -> Meter | None:
    beats, unit = time.findtext("beats"), whole_of(time.findtext("beat-type"))
    if beats is None or unit is None:
        return None
    groups = tuple(whole_of(word) or 0 for word in beats.split("+")[:32])
    over = sum(groups)
    try:
        return Meter(numerator=over, denominator=unit, groups=groups if len(groups) > 1 else ())
    except ValueOutOfRange:
        raise FormatError(
            expected=term("a time signature over 2, 4, 8 or 16"), actual=f"{over}/{unit}"
        ) from None


@dataclass(frozen=True, slots=True, kw_only=True)
class Surveyed:
    """One bar of one part: the state at its beginning and behind it, and how far what is in it reaches, in ticks."""

    before: AttributesState
    after: AttributesState
    length: Fraction
    plays: bool
    """Is anything in it but rests? A bar's rest is often written longer or shorter than the bar."""


def surveyed(measures: Sequence[Element]) -> list[Surveyed]:
    """Return the bars of a part in written order. Raises FormatError."""
    surveyed: list[Surveyed] = []
    state = AttributesState()
    for measure in measures:
        before = state
        now = furthest = Fraction(0)
        plays = False
        for element in measure:
            match element.tag:
                case "attributes":
                    state = state.after(element)
                case "note" if element.find("chord") is None and element.find("grace") is None:
                    now += state.note_ticks(element)
                    plays = plays or element.find("rest") is None
                case "forward":
                    now += state.ticks(element)
                case "backup":
                    now = max(Fraction(0), now - state.ticks(element))
            now = tame(now)
            furthest = max(furthest, now)
        if furthest > limits.BAR_QUARTERS * TICKS_PER_QUARTER:
            raise limits.too_much("quarters in a bar", limits.BAR_QUARTERS)
        surveyed.append(Surveyed(before=before, after=state, length=furthest, plays=plays))
    return surveyed


@dataclass(frozen=True, slots=True, kw_only=True)
class BarForm:
    """One written bar as all parts have it."""

    meter: Meter
    length: Fraction
    """As its meter says, or as most parts have it, in ticks."""
    is_own: bool
    """Has it a meter of its own, because it is shorter or longer than the one that is written?"""
    pickup: Fraction = Fraction(0)
    """Rests before a first bar that is not full, in ticks; then `full` is what it becomes."""
    full: Meter = COMMON


def forms(parts: Sequence[Sequence[Surveyed]]) -> list[BarForm]:
    """Return each written bar by its index, merged over all parts."""
    forms: list[BarForm] = []
    for index in range(max((len(part) for part in parts), default=0)):
        here = [part[index] for part in parts if index < len(part)]
        written = here[0].after.meter
        length = _length([bar.length for bar in here if bar.plays] or [bar.length for bar in here], written)
        meter = _meter_of(length, written)
        pickup = written.bar_ticks - length if not index and 0 < length < written.bar_ticks else Fraction(0)
        forms.append(
            BarForm(meter=meter, length=length, is_own=meter != written, pickup=pickup, full=written)
        )
    return forms


def _length(lengths: Sequence[Fraction], written: Meter) -> Fraction:
    """How long a bar is that parts have so long: as its meter says if any agrees, else as most have it."""
    if written.bar_ticks in lengths:
        return Fraction(written.bar_ticks)
    counted = Counter(lengths)
    return max(counted, key=lambda length: (counted[length], length))


def _meter_of(length: Fraction, written: Meter) -> Meter:
    """The meter of a bar that is so long: the one that is written, unless it is plainly another."""
    if length in (0, written.bar_ticks):
        return written
    for denominator in (written.denominator, 8, 16):
        count = length / Fraction(4 * TICKS_PER_QUARTER, denominator)
        if count.denominator == 1 and 1 <= count <= 32:
            return Meter(numerator=int(count), denominator=denominator)
    return written
