"""What stands over and under the notes of a part, made once and put into its bars by its place."""

from collections.abc import Iterator
from dataclasses import dataclass
from xml.etree.ElementTree import Element, SubElement

from ear.formats.musicxml import words
from ear.formats.musicxml.making import add, harmony_of
from ear.notation.loudness import loudness_of
from ear.notation.octave_lines import OCTAVE_STEPS, OctaveLine
from ear.notation.tempo_marks import tempo_marks
from ear.notation.written import WrittenScore
from ear.notes import PedalMove, SignKind, pedal_points

PEDAL_TYPES = {PedalMove.DOWN: "start", PedalMove.CHANGE: "change", PedalMove.UP: "stop"}


@dataclass(frozen=True, slots=True)
class Mark:
    """An element that stands at a tick."""

    tick: int
    element: Element


def marks_of(score: WrittenScore) -> list[Mark]:
    """Return the marks of a written part in order of time.

    At one tick the order is: ends of octave lines, sections, tempos, chord names, pedal, ends of hairpins, signs, beginnings
    of hairpins and of octave lines.
    """
    return sorted(_marks(score), key=lambda mark: mark.tick)


def _marks(score: WrittenScore) -> Iterator[Mark]:
    part, staves = score.part, len(score.clefs)
    for line in score.octave_lines:
        yield Mark(line.end_tick, _octave_shift(line, "stop", staves))
    for section in part.sections:
        above = Element("direction", placement="above")
        add(add(above, "direction-type"), "rehearsal", section.name)
        yield Mark(part.meters.bar(section.bar).start_tick, above)
    for mark in tempo_marks(part):
        above = Element("direction", placement="above")
        metronome = add(add(above, "direction-type"), "metronome")
        add(metronome, "beat-unit", words.TYPES[mark.beat.base])
        for _ in range(mark.beat.dots):
            add(metronome, "beat-unit-dot")
        add(metronome, "per-minute", f"{round(mark.per_minute, 3):g}")
        SubElement(above, "sound", tempo=f"{part.tempos.bpm_at(mark.tick):.6g}")
        yield Mark(mark.tick, above)
    for over in part.signs:
        if over.kind is SignKind.TEXT:
            above = Element("direction", placement="above")
            add(add(above, "direction-type"), "words", over.text)
            if staves > 1:
                add(above, "staff", staves if over.is_left else 1)
            yield Mark(over.tick, above)
        elif over.waits:
            for tick in (over.tick, over.end_tick):
                yield Mark(tick, Element("sound", tempo=f"{part.tempos.bpm_at(tick):.6g}"))
    for chord in part.chords:
        yield Mark(chord.tick, harmony_of(chord.name))
    for point in pedal_points(part.pedal):
        pedal = Element("pedal", type=PEDAL_TYPES[point.move], line="yes")
        yield Mark(point.tick, _below(pedal, staves, staves=staves))
    loudness = loudness_of(part)
    for hairpin in loudness.hairpins:
        yield Mark(hairpin.end_tick, _below(Element("wedge", type="stop"), 1, staves=staves))
    for sign in loudness.signs:
        dynamics = Element("dynamics")
        add(dynamics, sign.sign)
        yield Mark(sign.tick, _below(dynamics, 1, staves=staves))
    for hairpin in loudness.hairpins:
        kind = "crescendo" if hairpin.is_rising else "diminuendo"
        yield Mark(hairpin.start_tick, _below(Element("wedge", type=kind), 1, staves=staves))
    for line in score.octave_lines:
        # The format says which way what is written has been moved.
        yield Mark(line.first_tick, _octave_shift(line, "down" if line.octaves > 0 else "up", staves))


def _octave_shift(line: OctaveLine, kind: str, staves: int) -> Element:
    direction = Element("direction", placement="above" if line.octaves > 0 else "below")
    shift = Element("octave-shift", type=kind, size=str(OCTAVE_STEPS * abs(line.octaves) + 1))
    add(direction, "direction-type").append(shift)
    if staves > 1:
        add(direction, "staff", line.staff + 1)
    return direction


def _below(sign: Element, staff: int, *, staves: int) -> Element:
    """A direction under a staff, which is named where there are several."""
    direction = Element("direction", placement="below")
    add(direction, "direction-type").append(sign)
    if staves > 1:
        add(direction, "staff", staff)
    return direction
