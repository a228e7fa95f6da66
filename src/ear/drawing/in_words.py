"""A part in words, for who does not see the page: moment by moment, and as lines of text.

What is said is what is written: values as a musician spells them (`ear.notation.written`), names by the reader's
conventions. A note that is tied on is said once, with all that it lasts.
"""

from collections.abc import Iterable, Mapping
from itertools import groupby

from ear.criteria.score import Verdict
from ear.drawing.boxes import Overlay
from ear.drawing.verdicts import RowAt
from ear.notation.moments import Moment, moments
from ear.notation.values import Value
from ear.notes import Articulation, Hand, Part, SignKind
from ear.notes.controls import control_lines
from ear.numerals import signed
from ear.reader import Reader
from ear.text import gettext_noop
from ear.words.controls import describe_controls
from ear.words.places import BAR_AND_PLACE, describe_beat, describe_tick, describe_value

TIED, REST = gettext_noop("{first} tied to {then}"), gettext_noop("{value} rest")
HANDS = {Hand.RIGHT: gettext_noop("right hand"), Hand.LEFT: gettext_noop("left hand")}
ARTICULATIONS = {
    Articulation.STACCATO: gettext_noop("staccato"), Articulation.TENUTO: gettext_noop("tenuto"),
    Articulation.ACCENT: gettext_noop("accent"),
}  # fmt: skip
SLUR_BEGINS, SLUR_ENDS = gettext_noop("a slur begins"), gettext_noop("the slur ends")
FERMATA, QUOTED, CHORD = gettext_noop("fermata"), gettext_noop("“{text}”"), gettext_noop("chord {name}")
FINGER = gettext_noop("finger {n}")
AND = gettext_noop("{first} and {last}")
BAR = gettext_noop("Bar {bar}")
WHOLE_BAR_REST = gettext_noop("rest for the whole bar")


def describe_moment(part: Part, moment: Moment, reader: Reader, *, with_hand: bool = True) -> str:
    """Return a moment in words without its place: “C4 and E4, dotted crotchet, right hand, fingers 1 3”."""
    if moment.is_whole_bar:
        words = [reader.say(WHOLE_BAR_REST, {})]
    elif not moment.notes:
        words = [reader.say(REST, {"value": describe_value(moment.values[0], reader)})]
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
    articulations = {mark for n in moment.notes for mark in part.notes[n].articulations}
    words += [reader.say(ARTICULATIONS[mark], {}) for mark in Articulation if mark in articulations]
    words += _signs(part, moment, reader)
    fingers = [str(part.notes[n].finger) for n in moment.notes if part.notes[n].finger]
    if fingers:
        words.append(reader.say(FINGER, {"n": " ".join(fingers)}))
    return ", ".join(words)


def _signs(part: Part, moment: Moment, reader: Reader) -> list[str]:
    """What stands over a moment's notes: where slurs begin and end, a fermata, a chord name, words."""
    if not moment.notes:
        return []
    words = []
    for sign in part.signs:
        is_here = sign.tick == moment.tick and sign.is_left is (moment.hand is Hand.LEFT)
        if sign.kind is SignKind.SLUR and (moment.hand is Hand.LEFT) is sign.is_left:
            if sign.end_tick == moment.tick:
                words.append(reader.say(SLUR_ENDS, {}))
            if is_here:
                words.append(reader.say(SLUR_BEGINS, {}))
        elif is_here and sign.kind is SignKind.FERMATA:
            words.append(reader.say(FERMATA, {}))
        elif is_here and sign.kind is SignKind.TEXT:
            words.append(reader.say(QUOTED, {"text": sign.text}))
    if moment.hand is not Hand.LEFT:
        words += [
            reader.say(CHORD, {"name": chord.name}) for chord in part.chords if chord.tick == moment.tick
        ]
    return words


def describe_moment_place(part: Part, moment: Moment, reader: Reader) -> str:
    """Return where a moment is: “bar 2, beat 3 and a half”."""
    return reader.say(BAR_AND_PLACE, {"bar": moment.bar, "place": _beat(part, moment, reader)})


def _beat(part: Part, moment: Moment, reader: Reader) -> str:
    beat_ticks = part.meters.bar(moment.bar).meter.beat_ticks
    beat, into_ticks = divmod(moment.tick - part.meters.bar(moment.bar).start_tick, beat_ticks)
    return describe_beat(beat + 1, into_ticks, beat_ticks=beat_ticks, reader=reader)


def _name(part: Part, note: int, reader: Reader) -> str:
    written = part.notes[note]
    if part.instrument.has_lanes:
        return reader.gettext(part.lane_name(written.pitch))
    return reader.conventions.pitch(written.pitch, name_fifth=part.names[note])


def _length(values: Iterable[Value], reader: Reader) -> str:
    first, *others = (describe_value(value, reader) for value in values)
    for other in others:
        first = reader.say(TIED, {"first": first, "then": other})
    return first


def text_of(part: Part, reader: Reader) -> str:
    """Return the part as a page of text, bar by bar."""
    lines: list[str] = []
    for bar, inside in groupby(moments(part), key=lambda m: m.bar):
        lines.append(f"{reader.say(BAR, {'bar': bar})}.")
        lines += [f"  {_beat(part, m, reader)}: {describe_moment(part, m, reader)}." for m in inside]
    return "\n".join(lines) + "\n"


def result_of(
    part: Part, overlay: Overlay, rows: Iterable[RowAt], names: Mapping[Verdict, object], reader: Reader
) -> list[str]:
    """Return how a take went, one line for each note in order of place: “bar 1, beat 2: C4: late, +34 ms”.

    `names` are the words for verdicts.
    """
    lines = []
    controls = control_lines(overlay.take)
    for at in sorted(rows, key=lambda at: at.order):
        row, tick = at.row, max(0, round(at.tick))
        if row.target is not None:
            name, tick = _name(part, row.target, reader), part.notes[row.target].onset_tick
        else:
            assert row.take is not None
            name = reader.sound(part, overlay.take.notes[row.take].pitch, tick=tick)
        off = (
            f", {signed(row.judged_ms)} ms" if row.judged_ms is not None and abs(row.judged_ms) >= 0.5 else ""
        )
        phrases = [f"{names.get(row.verdict, row.verdict)}{off}"]
        if row.take is not None:
            phrases += describe_controls(controls.during(overlay.take.notes[row.take]), reader)
        lines.append(f"{describe_tick(part, tick, reader)}: {name}: {', '.join(phrases)}")
    return lines
