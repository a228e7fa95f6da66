"""Scales, arpeggios, five-finger exercises and intervals as parts."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ear.errors import ValueOutOfRange
from ear.notes import Hand, Kind, Meter, MeterMap, Note, Part, TempoMap, names_of
from ear.notes.chord_names import tone_places
from ear.notes.meter import MeterChange
from ear.patterns.fingering import arpeggio_fingers, scale_fingers
from ear.patterns.fingering import five_finger as finger_of_degree
from ear.patterns.grouped_fingers import fingers_of_thirds
from ear.patterns.modes import SEVEN, STEPS, Mode, Tonic, key_fifths, pitches, pitches_down, scale_names
from ear.units import MAX_PITCH, TICKS_PER_QUARTER

VELOCITY = 80
FIRST_BEAT_MORE = 10
MAX_OCTAVES = 4
THIRD = 3
COMMON = Meter(numerator=4, denominator=4)
FAR_FROM_KEY = 8
"""Fifths from a key's place past which a root is written enharmonically."""
MELODY_BPM = 90.0
"""What teachers set a first melody to."""


class LineDirection(StrEnum):
    """Which way a line goes."""

    UP = "up"
    DOWN = "down"
    BOTH = "up and down"
    DOWN_FIRST = "down and up"


@dataclass(frozen=True, slots=True, kw_only=True)
class LineShape:
    """What lines have in common: where they lie, how far they go, in which note value."""

    octave: int = 4
    """Of the lowest note, with middle C as C4."""
    octaves: int = 1
    way: LineDirection = LineDirection.BOTH
    value_ticks: int = TICKS_PER_QUARTER
    hand: Hand = Hand.RIGHT
    meter: Meter = COMMON


PLAIN = LineShape()


def lowest(tonic: Tonic, *, octave: int) -> int:
    """Return the tonic as a MIDI pitch, with middle C as C4."""
    return 12 * (octave + 1) + tonic.pitch_class


def _check_octaves(bottom: int, octaves: int) -> None:
    if not 1 <= octaves <= MAX_OCTAVES:
        raise ValueOutOfRange("octaves_out_of_range", octaves_most=MAX_OCTAVES, octaves=octaves)
    if not 0 <= bottom <= MAX_PITCH - 12 * octaves:
        raise ValueOutOfRange("pattern_off_keyboard")


Struck = tuple[int, int | None, int | None]
"""Pitch, finger, and name on the line of fifths."""


def in_line(moments: Sequence[Sequence[Struck]], *, fifths: int, shape: LineShape) -> Part:
    """Return moments one after the other in one note value; the last is held to the end of its bar.

    Raises ValueOutOfRange for a note value below a tick.
    """
    value, bar = shape.value_ticks, shape.meter.bar_ticks
    if value < 1:
        raise ValueOutOfRange("note_value_empty")
    notes = []
    for k, moment in enumerate(moments):
        onset = k * value
        is_last = k == len(moments) - 1
        more = FIRST_BEAT_MORE if onset % bar == 0 else 0
        notes += [
            Note(
                onset_tick=onset,
                length_tick=bar - onset % bar if is_last else value,
                pitch=pitch,
                velocity=VELOCITY + more,
                hand=shape.hand,
                finger=finger,
                name_fifth=name_fifth if name_fifth in names_of(pitch) else None,
            )
            for pitch, finger, name_fifth in moment
        ]
    return Part.of(
        notes,
        kind=Kind.KEYBOARD,
        meters=MeterMap([MeterChange(bar=1, meter=shape.meter)]),
        tempos=TempoMap.of(MELODY_BPM),
        fifths=fifths,
    )


def scale(tonic: Tonic, mode: Mode, shape: LineShape = PLAIN, *, from_degree: int = 1) -> Part:
    """Return a part with a scale and its fingers.

    From another degree than the first it is as long, with the fingers that these keys have in the scale. Raises
    ValueOutOfRange.
    """
    bottom = lowest(tonic, octave=shape.octave)
    octaves = shape.octaves + (from_degree > 1)
    _check_octaves(bottom, octaves)
    first, last = from_degree - 1, from_degree + (len(pitches(bottom, mode, octaves=1)) - 1) * shape.octaves
    up = pitches(bottom, mode, octaves=octaves)[first:last]
    down = pitches_down(bottom, mode, octaves=octaves)[::-1][first:last][::-1]
    fingers, fingers_down = (
        scale_fingers(mode, tonic.pitch_class, octaves=octaves, hand=shape.hand, is_down=is_down)[first:last]
        for is_down in (False, True)
    )
    names, names_down = (scale_names(tonic, mode, is_down=way) for way in (False, True))
    rising: list[list[Struck]] = [[(p, f, names[p % 12])] for p, f in zip(up, fingers, strict=True)]
    falling: list[list[Struck]] = [
        [(p, f, names_down[p % 12])] for p, f in zip(down, fingers_down[::-1], strict=True)
    ]
    return in_line(_going(rising, falling, shape.way), fifths=key_fifths(tonic, mode), shape=shape)


def arpeggio(tonic: Tonic, degrees: Sequence[int], *, fifths: int, shape: LineShape = PLAIN) -> Part:
    """Return a part with a chord's notes one after the other.

    `degrees` are semitones above the root, from 0. Raises ValueOutOfRange.
    """
    bottom = lowest(tonic, octave=shape.octave)
    _check_octaves(bottom, shape.octaves)
    inside = sorted({degree % 12 for degree in degrees})
    up = [bottom + 12 * o + step for o in range(shape.octaves) for step in inside]
    up.append(bottom + 12 * shape.octaves)
    fingers = arpeggio_fingers(degrees, tonic.pitch_class, octaves=shape.octaves, hand=shape.hand)
    root = tonic.major_fifths
    if abs(root - fifths) > FAR_FROM_KEY:
        root -= 12 if root > fifths else -12
    names = {7 * (root + place) % 12: root + place for place in tone_places(degrees)}
    rising: list[list[Struck]] = [
        [(p, f, names[p % 12])] for p, f in zip(up, fingers or (None,) * len(up), strict=True)
    ]
    return in_line(_going(rising, rising[::-1], shape.way), fifths=fifths, shape=shape)


def five_finger(
    tonic: Tonic,
    mode: Mode = Mode.MAJOR,
    shape: LineShape = PLAIN,
    *,
    degrees: Sequence[int] = (1, 2, 3, 4, 5, 4, 3, 2, 1),
) -> Part:
    """Return a part with a pattern over the first five notes of a scale, one finger for each.

    Degrees are 1 to 5. Raises ValueOutOfRange.
    """
    if not degrees or not all(1 <= degree <= 5 for degree in degrees):
        raise ValueOutOfRange("degree_outside_five_fingers", field="degrees")
    bottom = lowest(tonic, octave=shape.octave)
    _check_octaves(bottom, 1)
    notes = pitches(bottom, mode, octaves=1)
    names = scale_names(tonic, mode)
    moments = [
        [(notes[degree - 1], finger_of_degree(degree, hand=shape.hand), names[notes[degree - 1] % 12])]
        for degree in degrees
    ]
    return in_line(moments, fifths=key_fifths(tonic, mode), shape=shape)


def intervals(
    tonic: Tonic, mode: Mode, shape: LineShape = PLAIN, *, size: int, together: bool = False
) -> Part:
    """Return a part with intervals of one size (2 to 8) on each degree of a scale, with both notes in turn or together.

    In turn, the lower note comes first going up, the upper one going down. Thirds on seven degrees have their fingers.
    Raises ValueOutOfRange.
    """
    if not 2 <= size <= 8:
        raise ValueOutOfRange("interval_out_of_range", size=size)
    bottom = lowest(tonic, octave=shape.octave)
    _check_octaves(bottom, shape.octaves + 1)
    notes = pitches(bottom, mode, octaves=shape.octaves + 1)
    names = scale_names(tonic, mode)
    steps, count = STEPS[mode], len(pitches(bottom, mode, octaves=shape.octaves))
    fingers: Sequence[tuple[int | None, int | None]] = [(None, None)] * count
    if size == THIRD and len(steps) == SEVEN:
        fingers = fingers_of_thirds(steps, tonic.pitch_class, octaves=shape.octaves, hand=shape.hand)
    rising: list[list[Struck]] = []
    for k, held in enumerate(fingers):
        keys = (notes[k], notes[k + size - 1])
        rising.append([(p, f, names[p % 12]) for p, f in zip(keys, held, strict=True)])
    pairs = _going(rising, [pair[::-1] for pair in rising[::-1]], shape.way)
    moments = pairs if together else [[note] for pair in pairs for note in pair]
    return in_line(moments, fifths=key_fifths(tonic, mode), shape=shape)


def _going(rising: list[list[Struck]], falling: list[list[Struck]], way: LineDirection) -> list[list[Struck]]:
    return {
        LineDirection.UP: rising,
        LineDirection.DOWN: falling,
        LineDirection.BOTH: [*rising[:-1], *falling],
        LineDirection.DOWN_FIRST: [*falling[:-1], *rising],
    }[way]
