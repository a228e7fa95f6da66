"""Scales, arpeggios, five-finger exercises and intervals as parts."""

from collections.abc import Sequence
from enum import StrEnum

from ear.errors import ValueOutOfRange
from ear.notes import Hand, Kind, Meter, MeterMap, Note, Part, TempoMap
from ear.notes.meter import MeterChange
from ear.patterns.fingering import five_finger as finger_of_degree
from ear.patterns.fingering import major_scale_fingers
from ear.patterns.modes import Mode, Tonic, key_fifths, pitches, pitches_down
from ear.units import PITCH_MAX, TICKS_PER_QUARTER

VELOCITY = 80
FIRST_BEAT_MORE = 10
OCTAVES_MOST = 4
COMMON = Meter(numerator=4, denominator=4)
MELODY_BPM = 90.0
"""What teachers set a first melody to."""


class Way(StrEnum):
    UP = "up"
    DOWN = "down"
    BOTH = "up and down"


def lowest(tonic: Tonic, *, octave: int) -> int:
    """The tonic as a MIDI pitch, with middle C as C4."""
    return 12 * (octave + 1) + tonic.pitch_class


def _check_octaves(bottom: int, octaves: int) -> None:
    if not 1 <= octaves <= OCTAVES_MOST:
        raise ValueOutOfRange(f"patterns go over 1 to {OCTAVES_MOST} octaves, not {octaves}")
    if not 0 <= bottom <= PITCH_MAX - 12 * octaves:
        raise ValueOutOfRange("from there the pattern would leave the keys")


def in_line(
    moments: Sequence[Sequence[tuple[int, int | None]]],
    *,
    value_ticks: int,
    fifths: int,
    hand: Hand,
    meter: Meter = COMMON,
    bpm: float = MELODY_BPM,
) -> Part:
    """Moments of (pitch, finger), one after the other in one value; the last held to its bar's end."""
    if value_ticks < 1:
        raise ValueOutOfRange("a note value is a tick or more")
    notes = []
    for k, moment in enumerate(moments):
        onset = k * value_ticks
        is_last = k == len(moments) - 1
        length = meter.bar_ticks - onset % meter.bar_ticks if is_last else value_ticks
        more = FIRST_BEAT_MORE if onset % meter.bar_ticks == 0 else 0
        notes += [
            Note(
                onset_tick=onset,
                length_tick=length,
                pitch=pitch,
                velocity=VELOCITY + more,
                hand=hand,
                finger=finger,
            )
            for pitch, finger in moment
        ]
    return Part.of(
        notes,
        kind=Kind.KEYBOARD,
        meters=MeterMap([MeterChange(bar=1, meter=meter)]),
        tempos=TempoMap.of(bpm),
        fifths=fifths,
    )


def scale(
    tonic: Tonic,
    mode: Mode,
    *,
    octave: int = 4,
    octaves: int = 1,
    way: Way = Way.BOTH,
    value_ticks: int = TICKS_PER_QUARTER,
    hand: Hand = Hand.RIGHT,
    meter: Meter = COMMON,
) -> Part:
    """A scale; major ones with their fingers."""
    bottom = lowest(tonic, octave=octave)
    _check_octaves(bottom, octaves)
    up, down = pitches(bottom, mode, octaves=octaves), pitches_down(bottom, mode, octaves=octaves)
    fingers: tuple[int | None, ...] = (None,) * len(up)
    if mode is Mode.MAJOR:
        fingers = major_scale_fingers(tonic.pitch_class, octaves=octaves, hand=hand)
    rising = [[(p, f)] for p, f in zip(up, fingers, strict=True)]
    falling = [[(p, f)] for p, f in zip(down, fingers[::-1], strict=True)]
    line = {Way.UP: rising, Way.DOWN: falling, Way.BOTH: [*rising, *falling[1:]]}[way]
    return in_line(line, value_ticks=value_ticks, fifths=key_fifths(tonic, mode), hand=hand, meter=meter)


def arpeggio(
    tonic: Tonic,
    degrees: Sequence[int],
    *,
    fifths: int,
    octave: int = 4,
    octaves: int = 1,
    way: Way = Way.BOTH,
    value_ticks: int = TICKS_PER_QUARTER,
    hand: Hand = Hand.RIGHT,
    meter: Meter = COMMON,
) -> Part:
    """Chord notes one after the other; `degrees` are semitones over the root, from 0."""
    bottom = lowest(tonic, octave=octave)
    _check_octaves(bottom, octaves)
    inside = sorted({degree % 12 for degree in degrees})
    up = [bottom + 12 * o + step for o in range(octaves) for step in inside] + [bottom + 12 * octaves]
    line = {Way.UP: up, Way.DOWN: up[::-1], Way.BOTH: [*up, *up[-2::-1]]}[way]
    return in_line(
        [[(p, None)] for p in line], value_ticks=value_ticks, fifths=fifths, hand=hand, meter=meter
    )


def five_finger(
    tonic: Tonic,
    *,
    mode: Mode = Mode.MAJOR,
    degrees: Sequence[int] = (1, 2, 3, 4, 5, 4, 3, 2, 1),
    octave: int = 4,
    value_ticks: int = TICKS_PER_QUARTER,
    hand: Hand = Hand.RIGHT,
    meter: Meter = COMMON,
) -> Part:
    """A figure over the first five notes of a scale, one finger to each. Degrees are 1 to 5."""
    if not degrees or not all(1 <= degree <= 5 for degree in degrees):
        raise ValueOutOfRange("a five-finger figure has degrees from 1 to 5")
    bottom = lowest(tonic, octave=octave)
    _check_octaves(bottom, 1)
    notes = pitches(bottom, mode, octaves=1)
    return in_line(
        [[(notes[degree - 1], finger_of_degree(degree, hand=hand))] for degree in degrees],
        value_ticks=value_ticks,
        fifths=key_fifths(tonic, mode),
        hand=hand,
        meter=meter,
    )


def intervals(
    tonic: Tonic,
    mode: Mode,
    *,
    size: int,
    together: bool = False,
    octave: int = 4,
    octaves: int = 1,
    value_ticks: int = TICKS_PER_QUARTER,
    hand: Hand = Hand.RIGHT,
    meter: Meter = COMMON,
) -> Part:
    """Intervals of one size (2 to 8) on each degree of a scale, going up; both notes one after the
    other, or together."""
    if not 2 <= size <= 8:
        raise ValueOutOfRange(f"an interval is a second to an octave, not {size}")
    bottom = lowest(tonic, octave=octave)
    _check_octaves(bottom, octaves + 1)
    notes = pitches(bottom, mode, octaves=octaves + 1)
    roots = range(len(pitches(bottom, mode, octaves=octaves)))
    moments: list[list[tuple[int, int | None]]] = []
    for k in roots:
        pair: list[tuple[int, int | None]] = [(notes[k], None), (notes[k + size - 1], None)]
        moments += [pair] if together else [[note] for note in pair]
    return in_line(moments, value_ticks=value_ticks, fifths=key_fifths(tonic, mode), hand=hand, meter=meter)
