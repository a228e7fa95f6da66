"""What stands over and under the notes of a part, made once and put into its bars by its place."""

from collections.abc import Iterator
from dataclasses import dataclass
from xml.etree.ElementTree import Element, SubElement

from ear.formats.musicxml.making import add, harmony_of
from ear.notation.loudness import loudness_of
from ear.notes import Part, PedalMove, pedal_points

PEDAL_TYPES = {PedalMove.DOWN: "start", PedalMove.CHANGE: "change", PedalMove.UP: "stop"}


@dataclass(frozen=True, slots=True)
class Mark:
    """An element that stands at a tick."""

    tick: int
    element: Element


def marks_of(part: Part, *, staves: int) -> list[Mark]:
    """Return the marks of a part in order of time.

    At one tick the order is: sections, tempos, chord names, pedal, ends of hairpins, signs, beginnings of
    hairpins.
    """
    return sorted(_marks(part, staves), key=lambda mark: mark.tick)


def _marks(part: Part, staves: int) -> Iterator[Mark]:
    for section in part.sections:
        above = Element("direction", placement="above")
        add(add(above, "direction-type"), "rehearsal", section.name)
        yield Mark(part.meters.bar(section.bar).start_tick, above)
    for change in part.tempos.changes:
        above = Element("direction", placement="above")
        metronome = add(add(above, "direction-type"), "metronome")
        add(metronome, "beat-unit", "quarter")
        add(metronome, "per-minute", f"{change.bpm:g}")
        SubElement(above, "sound", tempo=f"{change.bpm:.6g}")
        yield Mark(change.tick, above)
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


def _below(sign: Element, staff: int, *, staves: int) -> Element:
    """A direction under a staff, which is named where there are several."""
    direction = Element("direction", placement="below")
    add(direction, "direction-type").append(sign)
    if staves > 1:
        add(direction, "staff", staff)
    return direction
