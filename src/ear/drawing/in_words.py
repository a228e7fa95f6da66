"""A part in words, for who does not see the page: moment by moment, and as lines of text.

What is said is what is written: values as a musician spells them (`ear.notation.written`), names by the reader's
conventions. A note that is tied on is said once, with all that it lasts.
"""

from collections.abc import Iterable, Mapping
from itertools import groupby

from ear.drawing.boxes import Overlay
from ear.drawing.verdicts import RowAt
from ear.judging.judgement import Verdict
from ear.notation.moments import Moment, moments
from ear.notation.values import Value
from ear.notes import Hand, Part
from ear.notes.controls import control_lines
from ear.text import gettext_noop
from ear.words.controls import describe_controls
from ear.words.reader import Reader, decimal, signed

VALUES = {
    1: gettext_noop("semibreve"), 2: gettext_noop("minim"), 4: gettext_noop("crotchet"), 8: gettext_noop("quaver"),
    16: gettext_noop("semiquaver"), 32: gettext_noop("demisemiquaver"),
}  # fmt: skip
DOTTED, TWICE_DOTTED, IN_TRIPLET = (
    gettext_noop("dotted {value}"),
    gettext_noop("double-dotted {value}"),
    gettext_noop("{value} of a triplet"),
)
TIED, REST = gettext_noop("{first} tied to {then}"), gettext_noop("{value} rest")
HANDS = {Hand.RIGHT: gettext_noop("right hand"), Hand.LEFT: gettext_noop("left hand")}
FINGER = gettext_noop("finger {n}")
AND = gettext_noop("{first} and {last}")
PLACE = gettext_noop("bar {bar}, beat {beat}")
BAR = gettext_noop("Bar {bar}")
WHOLE_BAR_REST = gettext_noop("rest for the whole bar")


def describe_moment(part: Part, moment: Moment, reader: Reader, *, with_hand: bool = True) -> str:
    """“C4 and E4, dotted crotchet, right hand, fingers 1 3”; without its place."""
    if moment.is_whole_bar:
        words = [reader.say(WHOLE_BAR_REST, {})]
    elif not moment.notes:
        words = [reader.say(REST, {"value": _value(moment.values[0], reader)})]
    else:
        names = [_name(part, n, reader) for n in moment.notes]
        listed = (
            names[0]
            if len(names) == 1
            else reader.say(AND, {"first": ", ".join(names[:-1]), "last": names[-1]})
        )
        words = [listed]
        if part.instrument.has_length:
            words.append(_length(moment.values, reader))
    if with_hand and moment.hand is not None:
        words.append(reader.say(HANDS[moment.hand], {}))
    fingers = [str(part.notes[n].finger) for n in moment.notes if part.notes[n].finger]
    if fingers:
        words.append(reader.say(FINGER, {"n": " ".join(fingers)}))
    return ", ".join(words)


def describe_moment_place(moment: Moment, reader: Reader) -> str:
    """“bar 2, beat 3.5”."""
    return reader.say(PLACE, {"bar": moment.bar, "beat": decimal(moment.beat, 2)})


def _name(part: Part, note: int, reader: Reader) -> str:
    written = part.notes[note]
    if part.instrument.has_lanes:
        return reader.gettext(part.lane_name(written.pitch))
    return reader.conventions.pitch(written.pitch, name_fifth=part.names[note])


def _length(values: Iterable[Value], reader: Reader) -> str:
    first, *others = (_value(value, reader) for value in values)
    for other in others:
        first = reader.say(TIED, {"first": first, "then": other})
    return first


def _value(value: Value, reader: Reader) -> str:
    name = reader.conventions.value_name(reader.say(VALUES[value.base], {}))
    if value.dots:
        name = reader.say(DOTTED if value.dots == 1 else TWICE_DOTTED, {"value": name})
    return reader.say(IN_TRIPLET, {"value": name}) if value.is_triplet else name


def text_of(part: Part, reader: Reader) -> str:
    """The part as a page of text, bar by bar."""
    lines: list[str] = []
    for bar, inside in groupby(moments(part), key=lambda m: m.bar):
        lines.append(f"{reader.say(BAR, {'bar': bar})}.")
        lines += [f"  {decimal(m.beat, 2)}: {describe_moment(part, m, reader)}." for m in inside]
    return "\n".join(lines) + "\n"


def result_of(
    part: Part, overlay: Overlay, rows: Iterable[RowAt], names: Mapping[Verdict, object], reader: Reader
) -> list[str]:
    """How a take went, note by note in order of place: “bar 1, beat 2: C4: late, +34 ms”; `names` are words for verdicts."""
    lines = []
    controls = control_lines(overlay.take)
    for at in sorted(rows, key=lambda at: at.order):
        row, tick = at.row, max(0, round(at.tick))
        if row.target is not None:
            name, tick = _name(part, row.target, reader), part.notes[row.target].onset_tick
        else:
            assert row.take is not None
            name = reader.conventions.sound(part, overlay.take.notes[row.take].pitch, tick=tick)
        bar = part.meters.bar_at(tick)
        place = {"bar": bar.number, "beat": decimal((tick - bar.start_tick) / bar.meter.beat_ticks + 1, 2)}
        off = (
            f", {signed(row.judged_ms)} ms" if row.judged_ms is not None and abs(row.judged_ms) >= 0.5 else ""
        )
        phrases = [f"{names.get(row.verdict, row.verdict.value)}{off}"]
        if row.take is not None:
            phrases += describe_controls(controls.during(overlay.take.notes[row.take]), reader)
        lines.append(f"{reader.say(PLACE, place)}: {name}: {', '.join(phrases)}")
    return lines
