"""A keyboard part in music braille, bar over bar, for a braille display or an embosser.

The signs are those of the Music Braille Code 2015 (Braille Authority of North America): notes, values, octaves, intervals,
in-accords, fingers, ties, tuplets, signatures. Slurs, articulations, pedal, chord names and small notes are left out.
`write_braille` returns cells as Unicode (U+2800 and on), `as_brf` the same in the ASCII of braille files.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ear.errors import ValueOutOfRange
from ear.notation.values import Value
from ear.notation.written import WrittenBar, WrittenScore, write_out
from ear.notation.written_notes import Tuplet, Written, WrittenNote
from ear.notes import Meter, Part

WIDTH = 40
"""Cells of a line."""
NUMBER, DOT, DOUBLE_BAR, IN_ACCORD = "⠼", "⠄", "⠣⠅", "⠣⠜"
TIE, CHORD_TIE, TRIPLET, GROUP = "⠈⠉", "⠨⠉", "⠆", "⠸"
PARENTHESIS = "⠠⠄"
RIGHT, LEFT = "⠨⠜", "⠸⠜"
LETTERS = {
    8: "⠙⠑⠋⠛⠓⠊⠚", 4: "⠹⠱⠫⠻⠳⠪⠺", 2: "⠝⠕⠏⠟⠗⠎⠞", 1: "⠽⠵⠯⠿⠷⠮⠾",
}  # fmt: skip
"""C to B by the value; a sixteenth is written as a whole note, a thirty-second as a half, a sixty-fourth as a quarter."""
RESTS = {8: "⠭", 4: "⠧", 2: "⠥", 1: "⠍"}
SAME_SIGN = {16: 1, 32: 2, 64: 4}
OCTAVES = "⠈⠘⠸⠐⠨⠰⠠"
"""From the first octave of the piano's C on; below and above, the outermost sign twice."""
INTERVALS = {1: "⠌", 2: "⠬", 3: "⠼", 4: "⠔", 5: "⠴", 6: "⠒", 0: "⠤"}
"""By diatonic steps from the written note, octaves left out: a second to an octave."""
FINGERS = {1: "⠁", 2: "⠃", 3: "⠇", 4: "⠂", 5: "⠅"}
ACCIDENTALS = {1: "⠩", -1: "⠣", 0: "⠡", 2: "⠩⠩", -2: "⠣⠣"}
UPPER, LOWER = "⠚⠁⠃⠉⠙⠑⠋⠛⠓⠊", "⠴⠂⠆⠒⠲⠢⠖⠶⠦⠔"
LEFT_DOTS = 0b111
"""Dots 1, 2 and 3: after a hand sign, dot 3 stands before a cell that has one of them."""
MAX_SIGNS_WRITTEN = 3
ASCII = " A1B'K2L@CIF/MSP\"E3H9O6R^DJG>NTQ,*5<-U8V.%[$+X!&;:4\\0Z7(_?W]#Y)="
"""The cells from U+2800 on in the ASCII of braille files."""


def as_brf(braille: str) -> str:
    """Return Unicode braille in the ASCII of braille files."""
    return "".join(ASCII[ord(cell) - 0x2800] if 0x2800 <= ord(cell) < 0x2840 else cell for cell in braille)


def write_braille(part: Part, *, width: int = WIDTH) -> str:
    """Return a keyboard part as lines of at most `width` cells, where one bar does not need more.

    Raises ValueOutOfRange for drums, which music braille writes in ways of their own.
    """
    if part.instrument.has_lanes:
        raise ValueOutOfRange("braille_of_drums")
    return _BrailleWriting(write_out(part), width).text()


@dataclass(frozen=True, slots=True, kw_only=True)
class _OctavePlace:
    """Where the last written note of a hand was, for the octave rule; None where an octave is due."""

    step: int | None = None


class _BrailleWriting:
    def __init__(self, score: WrittenScore, width: int) -> None:
        self.score, self.width = score, width
        self.part = score.part
        self.staves = len(score.bars[0].staves) if score.bars else 1

    def text(self) -> str:
        lines = [self._heading().center(self.width, "⠀").rstrip("⠀")]
        bars = list(self.score.bars)
        while bars:
            count = self._fitting(bars)
            lines += self._parallel(bars[:count], is_end=count == len(bars))
            bars = bars[count:]
        return "".join(f"{line}\n" for line in lines)

    def _heading(self) -> str:
        meter = self.part.meters.first
        beat = _value_sign(Value(base=4), LETTERS, 0)
        bpm = round(self.part.tempos.first_bpm)
        return f"{beat}⠶{_number(bpm)}⠀{key_sign(self.part.fifths)}{meter_sign(meter)}"

    def _fitting(self, bars: Sequence[WrittenBar]) -> int:
        count = 1
        while count < len(bars):
            lines = self._parallel(bars[: count + 1], is_end=count + 1 == len(bars))
            if max(map(len, lines)) > self.width:
                break
            count += 1
        return count

    def _parallel(self, bars: Sequence[WrittenBar], *, is_end: bool) -> list[str]:
        """Bars of both hands one over the other, each bar beginning in one column."""
        number = _number(bars[0].bar.number)
        if self.staves > 1:
            # With hand signs beside it a bar's number needs no number sign.
            number = number.removeprefix(NUMBER)
        hands = (RIGHT, LEFT) if self.staves > 1 else ("",)
        lines = [f"{number}⠀{hands[0]}", *(f"{'⠀' * (len(number) + 1)}{hand}" for hand in hands[1:])]
        places = [_OctavePlace() for _ in hands]
        for at, bar in enumerate(bars):
            cells = []
            for k, staff in enumerate(bar.staves):
                is_left = hands[k] == LEFT
                # Of two hands each bar begins with an octave, so that it can be read alone.
                before = places[k] if self.staves == 1 else _OctavePlace()
                text, places[k] = self._bar(staff.voices, before, is_left=is_left)
                # A change of metre or key stands before its bar.
                cells.append(self._change(bars, at) + text)
            for k, text in enumerate(cells):
                if at == 0 and hands[k] and ord(text[0]) - 0x2800 & LEFT_DOTS:
                    text = DOT + text
                lines[k] += ("⠀" if at else "") + text
            if is_end and at == len(bars) - 1:
                lines = [line + DOUBLE_BAR for line in lines]
            longest = max(map(len, lines))
            lines = [line.ljust(longest, "⠀") for line in lines]
        return [line.rstrip("⠀") for line in lines]

    def _change(self, bars: Sequence[WrittenBar], at: int) -> str:
        bar = bars[at]
        number = bar.bar.number - self.part.first_bar
        before = self.score.bars[number - 1] if number else bar
        key = key_sign(bar.fifths) if bar.fifths != before.fifths else ""
        meter = meter_sign(bar.bar.meter) if bar.bar.meter != before.bar.meter else ""
        return f"{key}{meter}⠀" if key or meter else ""

    def _bar(
        self, voices: Sequence[Sequence[Written]], place: _OctavePlace, *, is_left: bool
    ) -> tuple[str, _OctavePlace]:
        """A bar of one hand; its voices in an in-accord, the outer one first."""
        sounding = [voice for voice in voices if any(written.heads for written in voice)] or voices[:1]
        ordered = list(reversed(sounding)) if is_left else list(sounding)
        texts = []
        for voice in ordered:
            text, place = self._voice(voice, place, is_left=is_left)
            texts.append(text)
            if len(ordered) > 1:
                place = _OctavePlace()
        return IN_ACCORD.join(texts), place

    def _voice(
        self, voice: Sequence[Written], place: _OctavePlace, *, is_left: bool
    ) -> tuple[str, _OctavePlace]:
        cells: list[str] = []
        tuplet: Tuplet | None = None
        for written in voice:
            if written.tuplet is not None and written.tuplet != tuplet:
                cells.append(_tuplet_sign(written.tuplet))
            tuplet = written.tuplet
            if written.is_rest:
                cells.append(RESTS[1] if written.is_whole_bar else _value_sign(written.value, RESTS))
                continue
            text, place = self._chord(written, place, is_left=is_left)
            cells.append(text)
        return "".join(cells), place

    def _chord(self, written: Written, place: _OctavePlace, *, is_left: bool) -> tuple[str, _OctavePlace]:
        """A note, with the others of its chord as intervals: from the top in the right hand, from below in the left."""
        heads = sorted(
            (head for head in written.heads if not head.is_unison),
            key=lambda head: head.step,
            reverse=not is_left,
        )
        first, *others = heads
        cells = [_accidental(first), _octave(first.step, place.step)]
        cells.append(_value_sign(written.value, LETTERS, first.step % 7))
        cells.append(self._finger(first))
        before = first.step
        for head in others:
            distance = abs(head.step - first.step)
            is_far = abs(head.step - before) > 7
            cells += [_accidental(head), _octave(head.step, None) if is_far else "", INTERVALS[distance % 7]]
            cells.append(self._finger(head))
            before = head.step
        tied = [head for head in heads if head.is_tied_on]
        if tied:
            cells.append(CHORD_TIE if len(heads) > 1 and len(tied) == len(heads) else TIE)
        return "".join(cells), _OctavePlace(step=first.step)

    def _finger(self, head: WrittenNote) -> str:
        finger = self.part.notes[head.note].finger
        return FINGERS.get(finger or 0, "") if not head.is_tied_from else ""


def key_sign(fifths: int) -> str:
    """Return the cells of a key signature; none for a key without signs."""
    sign = ACCIDENTALS[1] if fifths > 0 else ACCIDENTALS[-1]
    count = abs(fifths)
    return sign * count if count <= MAX_SIGNS_WRITTEN else _number(count) + sign


def meter_sign(meter: Meter) -> str:
    """Return the cells of a time signature: 3/4 as a number whose lower figure is lowered."""
    lower = "".join(LOWER[int(digit)] for digit in str(meter.denominator))
    return f"{_number(meter.numerator)}{lower}"


def _number(value: int) -> str:
    return NUMBER + "".join(UPPER[int(digit)] for digit in str(value))


def _value_sign(value: Value, signs: dict[int, str], step: int = 0) -> str:
    base = SAME_SIGN.get(value.base, value.base)
    sign = signs[base]
    return (sign[step] if len(sign) > 1 else sign) + DOT * value.dots


def _tuplet_sign(tuplet: Tuplet) -> str:
    notes = tuplet.ratio.notes
    if Fraction(*tuplet.ratio) == Fraction(3, 2) and notes == 3:
        return TRIPLET
    return GROUP + "".join(LOWER[int(digit)] for digit in str(notes)) + DOT


def _accidental(head: WrittenNote) -> str:
    if not head.shows_accidental or head.is_tied_from:
        return ""
    sign = ACCIDENTALS[head.alteration]
    return f"{PARENTHESIS}{sign}{PARENTHESIS}" if head.is_cautionary else sign


def _octave(step: int, before: int | None) -> str:
    """The octave sign of a note, where the code asks for one: at the beginning; after a leap of a sixth or more; and after a
    fourth or fifth into another octave.
    """
    octave = step // 7 - 2
    sign = OCTAVES[min(len(OCTAVES) - 1, max(0, octave))] * (2 if not 0 <= octave < len(OCTAVES) else 1)
    if before is None:
        return sign
    leap = abs(step - before)
    if leap <= 2:
        return ""
    if leap <= 4:
        return sign if step // 7 != before // 7 else ""
    return sign
