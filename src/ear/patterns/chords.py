"""Chords by name, their voicings, and sequences of them as parts."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ear.errors import UnknownName, ValueOutOfRange
from ear.notes import ChordMark, Hand, Kind, Meter, MeterMap, Note, Part, TempoMap, name_in_key, spell
from ear.notes.chord_names import ALSO, NAME, QUALITIES
from ear.notes.meter import MeterChange
from ear.patterns.fingering import chord_fingers
from ear.patterns.lines import COMMON, FIRST_BEAT_MORE, MELODY_BPM, VELOCITY
from ear.patterns.modes import Mode, Tonic, key_fifths

SINGLE_FROM, SINGLE_TO = -8, 12
"""From F flat to B sharp: names with one sign at most."""
MIDDLE = 60
"""The middle of voicings: chords lie about middle C and a little above."""
BASS_FROM = 36


class Voicing(StrEnum):
    """How the notes of a chord are laid."""

    ROOT = "root position"
    SMOOTH = "nearest notes"


@dataclass(frozen=True, slots=True, kw_only=True)
class Chord:
    """A chord by name: its root, semitones over it, and another bass note, if there is one."""

    root: Tonic
    quality: str
    bass: Tonic | None = None

    @classmethod
    def named(cls, name: str) -> "Chord":
        """From a name such as “Am7”, “F♯dim” or “C/E”. Raises UnknownName."""
        found = NAME.match(name)
        if found:
            quality = ALSO.get(found[2], found[2])
            if quality in QUALITIES:
                bass = Tonic.named(found[3]) if found[3] else None
                return cls(root=Tonic.named(found[1]), quality=quality, bass=bass)
        raise UnknownName(what="chord", name=name, known=("C", "Am", "F♯dim", "G7", "C/E", "…"))

    @property
    def name(self) -> str:
        """The chord as it is written over a staff."""
        quality = self.quality.replace("b5", "♭5")
        return f"{self.root.name}{quality}{f'/{self.bass.name}' if self.bass else ''}"

    @property
    def intervals(self) -> tuple[int, ...]:
        """Semitones over the root."""
        return QUALITIES[self.quality]

    @property
    def pitch_classes(self) -> tuple[int, ...]:
        """From the root up, the bass not counted."""
        return tuple((self.root.pitch_class + i) % 12 for i in self.intervals)

    @property
    def key_fifths(self) -> int:
        """The key signature of the chord taken for the first of its key: minor if its third is."""
        is_minor = 3 in self.intervals and 4 not in self.intervals
        return key_fifths(self.root, Mode.NATURAL_MINOR if is_minor else Mode.MAJOR)

    def moved(self, semitones: int, *, fifths: int) -> "Chord":
        """The chord so many semitones away, spelled in a key."""
        return replace(
            self,
            root=tonic_of(self.root.pitch_class + semitones, fifths=fifths),
            bass=tonic_of(self.bass.pitch_class + semitones, fifths=fifths) if self.bass else None,
        )

    def in_root_position(self, *, around: int = MIDDLE) -> tuple[int, ...]:
        """Pitches with the root at the bottom, as near below `around` as it comes."""
        root = around - (around - self.root.pitch_class) % 12
        return tuple(root + i for i in self.intervals)

    def inversions(self, *, around: int = MIDDLE) -> tuple[tuple[int, ...], ...]:
        """All close positions whose lowest note lies within an octave either way of `around`."""
        close = sorted({i % 12 for i in self.intervals})
        found = []
        for turn in range(len(close)):
            turned = [*close[turn:], *(i + 12 for i in close[:turn])]
            for octave in (-12, 0, 12):
                bottom = around - (around - self.root.pitch_class) % 12 + octave
                pitches = tuple(bottom + i for i in turned)
                if abs(pitches[0] - around) <= 12:
                    found.append(pitches)
        return tuple(sorted(found))


def tonic_of(pitch: int, *, fifths: int) -> Tonic:
    """A pitch as a note name in a key."""
    return tonic_named(name_in_key(pitch % 12, fifths))


def tonic_named(fifth: int) -> Tonic:
    """A name on the line of fifths as a note name; a double sharp or flat enharmonically."""
    if not SINGLE_FROM <= fifth <= SINGLE_TO:
        fifth += -12 if fifth > SINGLE_TO else 12
    spelling = spell(7 * fifth % 12, fifth=fifth)
    return Tonic(letter=spelling.letter, alteration=spelling.alteration)


def distance(a: Sequence[int], b: Sequence[int]) -> int:
    """Semitones that fingers move between two chords, lowest to lowest and so on up.

    Of chords with different numbers of notes, the ones without a partner count from the nearest.
    """
    few, many = sorted((sorted(a), sorted(b)), key=len)
    moved = sum(abs(x - y) for x, y in zip(few, many, strict=False))
    return moved + sum(min(abs(x - y) for x in few) for y in many[len(few) :])


def voiced(chords: Sequence[Chord], voicing: Voicing) -> list[tuple[int, ...]]:
    """Pitches for each chord. Nearest notes: each next chord in the position that moves least, the
    lower of equals; the first in root position."""
    found: list[tuple[int, ...]] = []
    for chord in chords:
        if voicing is Voicing.ROOT or not found:
            found.append(chord.in_root_position())
        else:
            before = found[-1]
            found.append(min(chord.inversions(), key=lambda p: (distance(before, p), p)))
    return found


def read_sequence(text: str) -> list[list[Chord]]:
    """Bars of chords from text: bars between “|”, chords between spaces.

    “C | Am F | G7”. Raises UnknownName for a chord that there is not, ValueOutOfRange for no chord
    or an empty bar.
    """
    bars = [bar.split() for bar in text.strip().strip("|").split("|")]
    if not all(bars):
        raise ValueOutOfRange("bar_between_has_chord_more")
    return [[Chord.named(name) for name in bar] for bar in bars]


def chord_sequence(
    bars: Sequence[Sequence[Chord]],
    *,
    voicing: Voicing = Voicing.SMOOTH,
    rhythm: str = "x",
    with_bass: bool = True,
    meter: Meter = COMMON,
    bpm: float = MELODY_BPM,
) -> Part:
    """Chords in the right hand, their bass in the left.

    The chords of a bar share it evenly. `rhythm` divides each chord's time evenly: “x” strikes, “-”
    holds on, “.” rests; “x” alone is one long chord, “xxxx” four in four beats of a bar.
    """
    if not rhythm or set(rhythm) - set("x-."):
        raise ValueOutOfRange("rhythm_written_x_strike_hold")
    flat = [chord for bar in bars for chord in bar]
    positions = iter(voiced(flat, voicing))
    notes: list[Note] = []
    marks: list[ChordMark] = []
    for number, bar in enumerate(bars):
        start, share = number * meter.bar_ticks, meter.bar_ticks // len(bar)
        for k, chord in enumerate(bar):
            onset = start + k * share
            pitches = next(positions)
            fingers = chord_fingers(pitches, hand=Hand.RIGHT) or (None,) * len(pitches)
            marks.append(ChordMark(tick=onset, name=chord.name))
            more = FIRST_BEAT_MORE if k == 0 else 0
            for at, length in _strokes(rhythm, share):
                notes += [
                    Note(
                        onset_tick=onset + at, length_tick=length, pitch=p,
                        velocity=VELOCITY + (more if at == 0 else 0), hand=Hand.RIGHT, finger=finger,
                    )
                    for p, finger in zip(pitches, fingers, strict=True)
                ]  # fmt: skip
            if with_bass:
                bass = (chord.bass or chord.root).pitch_class
                pitch = BASS_FROM + (bass - BASS_FROM) % 12
                notes.append(
                    Note(
                        onset_tick=onset,
                        length_tick=share,
                        pitch=pitch,
                        velocity=VELOCITY - 8,
                        hand=Hand.LEFT,
                    )
                )
    first = flat[0]
    return Part.of(
        notes,
        kind=Kind.KEYBOARD,
        meters=MeterMap([MeterChange(bar=1, meter=meter)]),
        tempos=TempoMap.of(bpm),
        fifths=first.key_fifths,
        chords=marks,
    )


def _strokes(rhythm: str, ticks: int) -> list[tuple[int, int]]:
    """(onset, length) in ticks of each stroke of a rhythm over so many ticks."""
    edges = [ticks * k // len(rhythm) for k in range(len(rhythm) + 1)]
    found: list[tuple[int, int]] = []
    for k, sign in enumerate(rhythm):
        if sign == "x":
            found.append((edges[k], edges[k + 1] - edges[k]))
        elif sign == "-" and found and found[-1][0] + found[-1][1] == edges[k]:
            found[-1] = (found[-1][0], edges[k + 1] - found[-1][0])
    return found
