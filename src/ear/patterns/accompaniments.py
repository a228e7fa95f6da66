"""What a left hand plays under chords, and how a right hand comps: figures over chord names."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from ear.errors import ValueOutOfRange
from ear.notes import ChordMark, Hand, Kind, Meter, MeterMap, Note, Part, TempoMap
from ear.notes.meter import MeterChange
from ear.patterns.chords import BASS_FROM, Chord, Voicing, voiced
from ear.patterns.fingering import chord_fingers
from ear.patterns.lines import COMMON, MELODY_BPM
from ear.units import TICKS_PER_QUARTER

QUAVER = TICKS_PER_QUARTER // 2
BASS, MIDDLE, OFF_BEAT = 84, 68, 62
"""Velocities: the bass leads, inner notes are softer, off-beats the softest."""


LOWEST_BASS = 28
"""The E that a bass begins on."""


class ChordFigure(StrEnum):
    """Ways to break or strike a chord."""

    ALBERTI = "Alberti bass"
    BROKEN = "broken chords"
    WALTZ = "bass and chords"
    WALKING = "walking bass"
    COMPING = "comping"


CADENCES = {
    "perfect": "I IV V7 I", "plagal": "I vi IV I", "imperfect": "I ii IV V", "interrupted": "I IV V7 vi",
    "two-five-one": "ii7 V7 Imaj7 Imaj7",
}  # fmt: skip
"""By name, in numerals: a bar for each chord."""


class _Struck(NamedTuple):
    """What one hand strikes: where within its chord's time, for how long, which keys, how strongly."""

    at: int
    ticks: int
    pitches: tuple[int, ...]
    velocity: int
    fingers: tuple[int, ...] | None = None


@dataclass(frozen=True, slots=True)
class _Place:
    """A chord and where it sounds."""

    chord: Chord
    following: Chord
    onset: int
    ticks: int
    meter: Meter


def accompaniment(
    bars: Sequence[Sequence[Chord]],
    figure: ChordFigure,
    *,
    meter: Meter = COMMON,
    bpm: float = MELODY_BPM,
    fifths: int | None = None,
) -> Part:
    """Return chords as a figure of the left hand; comping is the right hand's, over a held bass.

    The chords of a bar share it evenly; each goes to its nearest position. A last chord is held for its time. Raises
    ValueOutOfRange for no chord.
    """
    flat = [chord for bar in bars for chord in bar]
    if not flat:
        raise ValueOutOfRange("chord_missing_between_bar_lines", field="chords")
    hand = Hand.RIGHT if figure is ChordFigure.COMPING else Hand.LEFT
    down = 0 if hand is Hand.RIGHT else 12
    positions = [tuple(p - down for p in pitches) for pitches in voiced(flat, Voicing.SMOOTH)]
    notes: list[Note] = []
    marks: list[ChordMark] = []
    number = 0
    for k, bar in enumerate(bars):
        for n, chord in enumerate(bar):
            ticks = meter.bar_ticks // len(bar)
            following = flat[min(number + 1, len(flat) - 1)]
            place = _Place(chord, following, k * meter.bar_ticks + n * ticks, ticks, meter)
            marks.append(ChordMark(tick=place.onset, name=chord.name))
            is_last = number == len(flat) - 1
            struck = (
                _close(place, positions[number], figure)
                if is_last
                else FIGURES[figure](place, positions[number])
            )
            notes += (note for each in struck for note in _notes(each, place, hand))
            if figure is ChordFigure.COMPING:
                bass = _Struck(0, ticks, (_bass(chord),), BASS)
                notes += _notes(bass, place, Hand.LEFT)
            number += 1
    return Part.of(
        notes, kind=Kind.KEYBOARD, meters=MeterMap([MeterChange(bar=1, meter=meter)]), tempos=TempoMap.of(bpm),
        fifths=flat[0].key_fifths if fifths is None else fifths, least_bars=len(bars), chords=marks,
    )  # fmt: skip


def _notes(struck: _Struck, place: _Place, hand: Hand) -> Iterator[Note]:
    fingers = struck.fingers or chord_fingers(struck.pitches, hand=hand)
    for k, pitch in enumerate(struck.pitches):
        yield Note(
            onset_tick=place.onset + struck.at, length_tick=struck.ticks, pitch=pitch, velocity=struck.velocity, hand=hand,
            finger=fingers[k] if fingers else None,
        )  # fmt: skip


def _bass(chord: Chord) -> int:
    pitch_class = (chord.bass or chord.root).pitch_class
    return BASS_FROM + (pitch_class - BASS_FROM) % 12


def _close(place: _Place, pitches: tuple[int, ...], figure: ChordFigure) -> Iterator[_Struck]:
    """The last chord, held for its time: a bass by its root alone, a left hand with the root at the bottom."""
    if figure is ChordFigure.WALKING:
        pitches = (_bass(place.chord),)
    elif figure is not ChordFigure.COMPING:
        root = (place.chord.bass or place.chord.root).pitch_class
        turn = next((k for k, pitch in enumerate(pitches) if pitch % 12 == root), 0)
        down = 12 if turn > len(pitches) // 2 else 0
        pitches = tuple(p - down for p in (*pitches[turn:], *(p + 12 for p in pitches[:turn])))
    yield _Struck(0, place.ticks, pitches, MIDDLE)


def _in_turn(place: _Place, keys: Sequence[int]) -> Iterator[_Struck]:
    """Quavers over a chord's time, from the bottom again on every beat of the figure."""
    position = sorted(set(keys))
    held = dict(zip(position, chord_fingers(position, hand=Hand.LEFT) or (), strict=True))
    for k in range(place.ticks // QUAVER):
        velocity = BASS if k % len(keys) == 0 else OFF_BEAT if k % 2 else MIDDLE
        key = keys[k % len(keys)]
        yield _Struck(k * QUAVER, QUAVER, (key,), velocity, (held[key],))


def _alberti(place: _Place, pitches: tuple[int, ...]) -> Iterator[_Struck]:
    low, *inner, high = pitches
    middle = inner[len(inner) // 2] if inner else high
    if place.meter.is_compound:
        yield from _in_turn(place, (low, high, middle))
    else:
        yield from _in_turn(place, (low, high, middle, high))


def _broken(place: _Place, pitches: tuple[int, ...]) -> Iterator[_Struck]:
    """Up and down again; in dotted beats up."""
    keys = pitches[:3] if place.meter.is_compound else (*pitches, *pitches[-2:0:-1])
    yield from _in_turn(place, keys)


def _waltz(place: _Place, pitches: tuple[int, ...]) -> Iterator[_Struck]:
    """The bass on the first beat, the chord on the others."""
    beat = QUAVER if place.meter.is_compound else place.meter.beat_ticks
    bass = _bass(place.chord)
    while bass + 12 < min(pitches):
        bass += 12
    for k in range(place.ticks // beat):
        is_bass = k % (3 if place.meter.is_compound else place.meter.beats) == 0
        yield _Struck(k * beat, beat, (bass,) if is_bass else pitches, BASS if is_bass else OFF_BEAT)


def _walking(place: _Place, pitches: tuple[int, ...]) -> Iterator[_Struck]:
    """A crotchet for each beat: the root, tones of the chord on the way, and a semitone before the next root."""
    root, goal, count = _bass(place.chord), _bass(place.following), place.ticks // TICKS_PER_QUARTER
    moves = place.following != place.chord and count > 1
    target = goal - 1 if goal > root else goal + 1
    last = target if moves else root
    classes = {(place.chord.root.pitch_class + i) % 12 for i in place.chord.intervals}
    tones = [p for p in range(root - 7, root + 13) if p % 12 in classes and p >= LOWEST_BASS]
    line = [root]
    for k in range(1, count - moves):
        ideal = root + (last - root) * k / max(1, count - 1) if moves else root + (4, 7, 4)[(k - 1) % 3]
        line.append(min((p for p in tones if p != line[-1]), key=lambda p: (abs(p - ideal), p)))
    line += [target] * moves
    for k, pitch in enumerate(line):
        yield _Struck(k * TICKS_PER_QUARTER, TICKS_PER_QUARTER, (pitch,), BASS if k % 2 == 0 else MIDDLE)


def _comping(place: _Place, pitches: tuple[int, ...]) -> Iterator[_Struck]:
    """On the first beat, and between the second and the third: the off-beat a little softer."""
    yield _Struck(0, min(place.ticks, TICKS_PER_QUARTER), pitches, MIDDLE + 8)
    if place.ticks >= 4 * QUAVER:
        yield _Struck(3 * QUAVER, QUAVER, pitches, MIDDLE)


FIGURES = {
    ChordFigure.ALBERTI: _alberti, ChordFigure.BROKEN: _broken, ChordFigure.WALTZ: _waltz, ChordFigure.WALKING: _walking,
    ChordFigure.COMPING: _comping,
}  # fmt: skip
