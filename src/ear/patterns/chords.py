"""Chords by name, their voicings, and sequences of them as parts."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ear.errors import UnknownName, ValueOutOfRange
from ear.notes import ChordMark, Hand, Kind, Meter, MeterMap, Note, Part, TempoMap, name_in_key, spell
from ear.notes.chord_names import NAME, NO_CHORD, NO_CHORDS, place_of, quality_of
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
        """Return a chord from a name such as “Am7”, “F♯dim” or “C/E”. Raises UnknownName."""
        match = NAME.match(name)
        quality = quality_of(match[2]) if match else None
        if match and quality is not None:
            bass = tonic_named(place_of(match[3])) if match[3] else None
            return cls(root=tonic_named(place_of(match[1])), quality=quality[0], bass=bass)
        raise UnknownName(kind="chord", name=name, known=("C", "Am", "F♯dim", "G7", "C/E"))

    @property
    def name(self) -> str:
        """The chord as it is written over a staff."""
        quality = self.quality.replace("b", "♭").replace("#", "♯")
        return f"{self.root.name}{quality}{f'/{self.bass.name}' if self.bass else ''}"

    @property
    def intervals(self) -> tuple[int, ...]:
        """Semitones over the root."""
        quality = quality_of(self.quality)
        assert quality is not None, self.quality
        return quality[1]

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
        """Return the chord so many semitones away, spelled in a key."""
        return replace(
            self,
            root=tonic_of(self.root.pitch_class + semitones, fifths=fifths),
            bass=tonic_of(self.bass.pitch_class + semitones, fifths=fifths) if self.bass else None,
        )

    def in_root_position(self, *, around: int = MIDDLE) -> tuple[int, ...]:
        """Return the chord's pitches with the root at the bottom, as near below `around` as possible."""
        root = around - (around - self.root.pitch_class) % 12
        return tuple(root + i for i in self.intervals)

    def inversions(self, *, around: int = MIDDLE) -> tuple[tuple[int, ...], ...]:
        """Return all close positions whose lowest note is within an octave of `around` on either side."""
        close = sorted({i % 12 for i in self.intervals})
        inversions = []
        for turn in range(len(close)):
            turned = [*close[turn:], *(i + 12 for i in close[:turn])]
            for octave in (-12, 0, 12):
                bottom = around - (around - self.root.pitch_class) % 12 + octave
                pitches = tuple(bottom + i for i in turned)
                if abs(pitches[0] - around) <= 12:
                    inversions.append(pitches)
        return tuple(sorted(inversions))


def tonic_of(pitch: int, *, fifths: int) -> Tonic:
    """Return a pitch as a note name in a key."""
    return tonic_named(name_in_key(pitch % 12, fifths))


def tonic_named(name_fifth: int) -> Tonic:
    """Return a name on the line of fifths as a note name; a double sharp or flat becomes its enharmonic
    equivalent.
    """
    if not SINGLE_FROM <= name_fifth <= SINGLE_TO:
        name_fifth += -12 if name_fifth > SINGLE_TO else 12
    spelling = spell(7 * name_fifth % 12, name_fifth=name_fifth)
    return Tonic(letter=spelling.letter, alteration=spelling.alteration)


def distance(a: Sequence[int], b: Sequence[int]) -> int:
    """Return the semitones that fingers move between two chords, lowest note to lowest and so on up.

    Of chords with different numbers of notes, the ones without a partner count from the nearest.
    """
    few, many = sorted((sorted(a), sorted(b)), key=len)
    moved = sum(abs(x - y) for x, y in zip(few, many, strict=False))
    return moved + sum(min(abs(x - y) for x in few) for y in many[len(few) :])


def voiced(chords: Sequence[Chord], voicing: Voicing) -> list[tuple[int, ...]]:
    """Return the pitches of each chord.

    With nearest notes, each chord takes the position that moves least, the lower of equal ones; the first is in
    root position.
    """
    voiced: list[tuple[int, ...]] = []
    for chord in chords:
        if voicing is Voicing.ROOT or not voiced:
            voiced.append(chord.in_root_position())
        else:
            before = voiced[-1]
            voiced.append(min(chord.inversions(), key=lambda p: (distance(before, p), p)))
    return voiced


ROMAN = re.compile(
    r"([b#♭♯]?)(VII|VI|IV|V|III|II|I|vii|vi|iv|v|iii|ii|i)([^A-Za-z].*|(?:maj|m|dim|sus|add|aug|ø).*)?\Z"
)
NUMERALS = ("I", "II", "III", "IV", "V", "VI", "VII")
MAJOR_DEGREES, MINOR_DEGREES = (0, 2, 4, -1, 1, 3, 5), (0, 2, -3, -1, 1, -4, -2)
"""Fifths from the tonic of a key to its degrees."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Key:
    """What roman numerals are read in."""

    tonic: Tonic
    is_minor: bool = False

    @property
    def fifths(self) -> int:
        """Its signature."""
        return key_fifths(self.tonic, Mode.NATURAL_MINOR if self.is_minor else Mode.MAJOR)


C_MAJOR = Key(tonic=Tonic(letter="C"))


def read_chord(text: str, key: Key = C_MAJOR) -> Chord | None:
    """Return a chord by its name, or by a roman numeral in a key (capitals are major, small letters minor);
    None for “N.C.”.

    Raises UnknownName.
    """
    if text.lower() in NO_CHORDS:
        return None
    roman = ROMAN.match(text)
    if roman is None:
        return Chord.named(text)
    sign, numeral, quality = roman[1], roman[2], roman[3] or ""
    degrees = MINOR_DEGREES if key.is_minor else MAJOR_DEGREES
    degree = NUMERALS.index(numeral.upper())
    is_diminished = quality.startswith(("°", "dim", "ø"))
    place = degrees[degree] + {"": 0, "b": -7, "♭": -7}.get(sign, 7)
    if key.is_minor and degree == len(NUMERALS) - 1 and is_diminished and not sign:
        # On the leading tone.
        place = MAJOR_DEGREES[degree]
    if numeral.islower() and not is_diminished:
        quality = f"m{quality}"
    known_quality = quality_of(quality)
    if known_quality is None:
        raise UnknownName(kind="chord", name=text, known=("I", "ii7", "V7", "vii°"))
    return Chord(root=tonic_named(key.tonic.major_fifths + place), quality=known_quality[0])


def read_sequence(text: str, *, key: Key = C_MAJOR, is_shared: bool = False) -> list[list[Chord | None]]:
    """Return bars of chords read from text; None stands for a stretch without one.

    Raises UnknownName.

    “C | Am F | G7”: bars between “|”, whose chords share them; without these, commas part bars; without either each chord
    has a bar (with `is_shared` all share one). Raises UnknownName for a chord that there is not, which says in which bar,
    ValueOutOfRange for no chord or an empty bar.
    """
    plain = text.strip().strip("|").strip().strip(",").strip()
    if "|" in plain:
        bars = [bar.replace(",", " ").split() for bar in plain.split("|")]
    elif "," in plain:
        bars = [bar.split() for bar in plain.split(",")]
    else:
        words = plain.split()
        bars = [words] if is_shared else [[word] for word in words]
    if not bars or not all(bars):
        raise ValueOutOfRange("chord_missing_between_bar_lines", field="chords")
    return [[_read_in_bar(name, number, key) for name in bar] for number, bar in enumerate(bars, start=1)]


def _read_in_bar(name: str, number: int, key: Key) -> Chord | None:
    try:
        return read_chord(name, key)
    except UnknownName as problem:
        raise ValueOutOfRange("chord_unknown", field="chords", name=name, bar=number) from problem


def write_sequence(bars: Sequence[Sequence[Chord | None]]) -> str:
    """Return bars of chords as text that can be read in one way only."""
    return " | ".join(" ".join(NO_CHORD if chord is None else chord.name for chord in bar) for bar in bars)


def chord_sequence(
    bars: Sequence[Sequence[Chord | None]],
    *,
    voicing: Voicing = Voicing.SMOOTH,
    rhythm: str = "x",
    with_bass: bool = True,
    meter: Meter = COMMON,
    bpm: float = MELODY_BPM,
    fifths: int | None = None,
) -> Part:
    """Return a part with chords in the right hand and their bass in the left, in the key of the first chord
    unless another is given.

    The chords of a bar share it evenly. `rhythm` divides each chord's time evenly: “x” strikes, “-”
    holds on, “.” rests; “x” alone is one long chord, “xxxx” four in four beats of a bar.
    Raises ValueOutOfRange for another sign in `rhythm`, or for no chord at all.
    """
    if not rhythm or set(rhythm) - set("x-."):
        raise ValueOutOfRange("rhythm_unreadable")
    flat = [chord for bar in bars for chord in bar if chord is not None]
    if not flat:
        raise ValueOutOfRange("chord_missing_between_bar_lines", field="chords")
    positions = iter(voiced(flat, voicing))
    notes: list[Note] = []
    marks: list[ChordMark] = []
    for number, bar in enumerate(bars):
        start, share = number * meter.bar_ticks, meter.bar_ticks // len(bar)
        for k, chord in enumerate(bar):
            onset = start + k * share
            if chord is None:
                marks.append(ChordMark(tick=onset, name=NO_CHORD))
                continue
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
        fifths=first.key_fifths if fifths is None else fifths,
        least_bars=len(bars),
        chords=marks,
    )


def _strokes(rhythm: str, ticks: int) -> list[tuple[int, int]]:
    """(onset, length) in ticks of each stroke of a rhythm over so many ticks."""
    edges = [ticks * k // len(rhythm) for k in range(len(rhythm) + 1)]
    strokes: list[tuple[int, int]] = []
    for k, sign in enumerate(rhythm):
        if sign == "x":
            strokes.append((edges[k], edges[k + 1] - edges[k]))
        elif sign == "-" and strokes and strokes[-1][0] + strokes[-1][1] == edges[k]:
            strokes[-1] = (strokes[-1][0], edges[k + 1] - strokes[-1][0])
    return strokes
