"""Places, lengths and intervals in words, by a reader's conventions: one whole message for each case."""

from fractions import Fraction

from ear.notation.values import PLAIN_VALUES, TRIPLET_VALUES, Value
from ear.notes import Part
from ear.numerals import decimal
from ear.reader import Reader
from ear.text import Text, gettext_noop, ngettext_lazy
from ear.units import TICKS_PER_QUARTER
from ear.words.phrases import half_up

PICKUP_AND_PLACE = gettext_noop("the pick-up, {place}")
BAR_AND_PLACE = gettext_noop("bar {bar}, {place}")
BEATS = {
    Fraction(0): gettext_noop("beat {beat}"),
    Fraction(1, 2): gettext_noop("beat {beat} and a half"),
    Fraction(1, 4): gettext_noop("beat {beat} and a quarter"),
    Fraction(3, 4): gettext_noop("beat {beat} and three quarters"),
    Fraction(1, 3): gettext_noop("beat {beat} and a third"),
    Fraction(2, 3): gettext_noop("beat {beat} and two thirds"),
    Fraction(1, 6): gettext_noop("beat {beat} and a sixth"),
    Fraction(5, 6): gettext_noop("beat {beat} and five sixths"),
    Fraction(1, 8): gettext_noop("beat {beat} and an eighth"),
    Fraction(3, 8): gettext_noop("beat {beat} and three eighths"),
    Fraction(5, 8): gettext_noop("beat {beat} and five eighths"),
    Fraction(7, 8): gettext_noop("beat {beat} and seven eighths"),
}
WITHIN_BEAT = gettext_noop("beat {beat}.{hundredths}")
"""A place that no simple fraction of the beat names, as recorded notes have them."""
BEFORE_FIRST_BAR = ngettext_lazy("the bar before bar 1, {place}", "{count} bars before bar 1, {place}")
COUNTED = {
    1: gettext_noop("the “e” of {beat}"), 2: gettext_noop("the “and” of {beat}"), 3: gettext_noop("the “a” of {beat}"),
}  # fmt: skip
"""Sixteenths of a crotchet beat, as learners count them aloud."""
QUAVER_OF_BEAT = gettext_noop("quaver {number} of beat {beat}")
SEMIQUAVER_OF_BEAT = gettext_noop("semiquaver {number} of beat {beat}")
EIGHTH_OF_BEAT = gettext_noop("eighth note {number} of beat {beat}")
SIXTEENTH_OF_BEAT = gettext_noop("sixteenth note {number} of beat {beat}")
DOTTED, TWICE_DOTTED = gettext_noop("dotted {value}"), gettext_noop("double-dotted {value}")
IN_TUPLET = {
    3: gettext_noop("{value} of a triplet"), 5: gettext_noop("{value} of a quintuplet"),
    6: gettext_noop("{value} of a sextuplet"), 7: gettext_noop("{value} of a septuplet"),
}  # fmt: skip
BRITISH_OF_BASE = {
    1: gettext_noop("semibreve"), 2: gettext_noop("minim"), 4: gettext_noop("crotchet"), 8: gettext_noop("quaver"),
    16: gettext_noop("semiquaver"), 32: gettext_noop("demisemiquaver"),
    64: gettext_noop("hemidemisemiquaver"),
}  # fmt: skip
IN_CROTCHETS = gettext_noop("{number} of a crotchet")
IN_QUARTERS = gettext_noop("{number} of a quarter note")
INTERVALS = (
    gettext_noop("a unison"), gettext_noop("a semitone"), gettext_noop("a tone"), gettext_noop("a minor third"),
    gettext_noop("a major third"), gettext_noop("a fourth"), gettext_noop("a tritone"), gettext_noop("a fifth"),
    gettext_noop("a minor sixth"), gettext_noop("a major sixth"), gettext_noop("a minor seventh"),
    gettext_noop("a major seventh"), gettext_noop("an octave"),
)  # fmt: skip
OCTAVES = ngettext_lazy("{count} octave", "{count} octaves")
BEYOND_OCTAVES = ngettext_lazy("an octave and {interval}", "{count} octaves and {interval}")


def describe_beat(beat: int, into_ticks: int, *, beat_ticks: int, reader: Reader) -> str:
    """Return a place in a bar by its beat: “beat 2”, “beat 2 and a half”, “beat 2.42”.

    `beat` counts from 1; `into_ticks` is how far after it the place is.
    """
    share = Fraction(into_ticks, beat_ticks)
    known = BEATS.get(share)
    if known is not None:
        return reader.say(known, {"beat": beat})
    # A place just before the next beat is still in this one.
    hundredths = min(99, half_up(100 * float(share)))
    return reader.say(WITHIN_BEAT, {"beat": beat, "hundredths": f"{hundredths:02d}"})


def describe_tick(part: Part, tick: int, reader: Reader) -> str:
    """Return a place in a part: “bar 3, beat 2 and a half”, or “the bar before bar 1, beat 4.98”."""
    at = part.meters.position(tick)
    place = describe_beat(
        at.beat, round(at.tick), beat_ticks=part.meters.bar_at(tick).meter.beat_ticks, reader=reader
    )
    if at.bar == part.first_bar == 0:
        return reader.say(PICKUP_AND_PLACE, {"place": place})
    if at.bar < 1:
        return reader.say(BEFORE_FIRST_BAR, {"count": 1 - at.bar, "place": place})
    return reader.say(BAR_AND_PLACE, {"bar": at.bar, "place": place})


def describe_place(beat: int, into_ticks: int, *, beat_ticks: int, is_compound: bool, reader: Reader) -> str:
    """Return a place in any bar as it is counted: “beat 2”, “the “and” of 2”, “quaver 2 of beat 3”.

    A place that is not counted is named by its beat, as `describe_beat` does.
    """
    if into_ticks and not is_compound and beat_ticks == TICKS_PER_QUARTER and into_ticks % 120 == 0:
        return reader.say(COUNTED[into_ticks // 120], {"beat": beat})
    if into_ticks and is_compound and into_ticks % (beat_ticks // 3) == 0:
        is_quaver, is_american = beat_ticks == 720, reader.conventions.is_american
        text = {
            (True, False): QUAVER_OF_BEAT, (False, False): SEMIQUAVER_OF_BEAT,
            (True, True): EIGHTH_OF_BEAT, (False, True): SIXTEENTH_OF_BEAT,
        }[is_quaver, is_american]  # fmt: skip
        return reader.say(text, {"number": into_ticks // (beat_ticks // 3) + 1, "beat": beat})
    return describe_beat(beat, into_ticks, beat_ticks=beat_ticks, reader=reader)


def describe_value(value: Value, reader: Reader) -> str:
    """Return the name of a note value: “dotted crotchet”, “quaver of a triplet”."""
    plain = BRITISH_OF_BASE[value.base].singular
    name = reader.say(Text(singular=reader.conventions.value_name(plain)), {})
    if value.dots:
        name = reader.say(DOTTED if value.dots == 1 else TWICE_DOTTED, {"value": name})
    return name if value.ratio is None else reader.say(IN_TUPLET[value.ratio.notes], {"value": name})


def describe_length(ticks: int, reader: Reader) -> str:
    """Return how long a note is: by its value, if it has exactly one, else “0.42 of a crotchet”."""
    value = PLAIN_VALUES.get(Fraction(ticks)) or TRIPLET_VALUES.get(Fraction(ticks))
    if value is not None:
        return describe_value(value, reader)
    text = IN_QUARTERS if reader.conventions.is_american else IN_CROTCHETS
    return reader.say(text, {"number": decimal(ticks / TICKS_PER_QUARTER, 2 if ticks > 4 else 3)})


def describe_interval(semitones: int, reader: Reader) -> str:
    """Return the size of an interval, up or down: “a major third”, “2 octaves and a fifth”."""
    if abs(semitones) < len(INTERVALS):
        return reader.say(INTERVALS[abs(semitones)], {})
    octaves, rest = divmod(abs(semitones), 12)
    if not rest:
        return reader.say(OCTAVES, {"count": octaves})
    return reader.say(BEYOND_OCTAVES, {"count": octaves, "interval": reader.say(INTERVALS[rest], {})})
