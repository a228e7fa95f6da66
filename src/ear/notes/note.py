"""Notes as a part writes them."""

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from operator import attrgetter

import numpy as np

from ear.errors import ValueOutOfRange
from ear.notes.chord_names import tones_of
from ear.notes.form import WrittenForm
from ear.notes.instrument import Instrument, Kind
from ear.notes.kit import PERCUSSION, STANDARD_KIT, KitMap
from ear.notes.meter import Bar, MeterMap, TempoChange, TempoMap
from ear.notes.ornament import Ornament
from ear.notes.pedal import PedalMark, check_pedal
from ear.notes.pitch import name_in_key, names_of
from ear.notes.spelling import UNKNOWN, spelled
from ear.notes.values import Ints, check_pitch_and_velocity, ints

MAX_FIFTHS = 7
FINGERS = 5
MAX_VOICES = 4
"""Lines of one staff that can be read."""
MAX_LANE_NAME_LENGTH = 24
MAX_GRACE = 24
"""Semitones from a note to its grace note."""
MAX_LABEL_LENGTH = 40
"""Characters of a word at a note."""


class Hand(StrEnum):
    """By which hand a note is played."""

    RIGHT = "right"
    LEFT = "left"


HANDS = (None, Hand.RIGHT, Hand.LEFT)
"""Hands by number; 0 for none."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """One note of a target part, in ticks from the start of bar 1."""

    onset_tick: int
    length_tick: int
    pitch: int
    velocity: int
    hand: Hand | None = None
    finger: int | None = None
    """1 thumb to 5 little finger."""
    label: str | None = None
    """A word of the note's own: a syllable of the song, a count."""
    name_fifth: int | None = None
    """How it is written, where that was said: its name on the line of fifths (C 0, G 1, F -1, F sharp 6)."""
    is_proposed: bool = False
    """Its finger is a proposal that nobody has agreed to yet."""
    voice: int | None = None
    """Which line of its staff it is written in, from 1, where that was said."""
    ornament: Ornament | None = None
    grace_semitones: int | None = None
    """How far above the note its grace note is; where that was not said, it is the next step of the key."""

    def __post_init__(self) -> None:
        check_pitch_and_velocity(self.pitch, self.velocity)
        if self.onset_tick < 0 or self.length_tick < 1:
            raise ValueOutOfRange("note_empty")
        if self.finger is not None and not 1 <= self.finger <= FINGERS:
            raise ValueOutOfRange("finger_out_of_range", fingers=FINGERS, finger=self.finger)
        if self.is_proposed and self.finger is None:
            raise ValueOutOfRange("proposal_without_finger")
        if self.label is not None and not 1 <= len(self.label) <= MAX_LABEL_LENGTH:
            raise ValueOutOfRange("note_word_length", label_most=MAX_LABEL_LENGTH)
        if self.name_fifth is not None and self.name_fifth not in names_of(self.pitch):
            raise ValueOutOfRange("spelling_wrong_for_pitch", field="fifth")
        if self.voice is not None and not 1 <= self.voice <= MAX_VOICES:
            raise ValueOutOfRange("voice_out_of_range", voices=MAX_VOICES, voice=self.voice)
        if self.grace_semitones is not None and abs(self.grace_semitones) > MAX_GRACE:
            raise ValueOutOfRange("grace_note_too_far", most=MAX_GRACE)

    def at_pitch(self, pitch: int, name_fifth: int | None = None) -> "Note":
        """Return the note at another pitch. Its written name stays only if that pitch can have it."""
        return (
            self
            if pitch == self.pitch and name_fifth is None
            else replace(self, pitch=pitch, name_fifth=name_fifth)
        )

    def moved(self, *, ticks: int, semitones: int) -> "Note":
        """Return the note moved in time and pitch; whole octaves away it keeps its name.

        Raises ValueOutOfRange.

        Written out: a part of thousands is moved at once, and `replace` takes twice as long.
        """
        return Note(
            onset_tick=self.onset_tick + ticks, length_tick=self.length_tick, pitch=self.pitch + semitones,
            velocity=self.velocity, hand=self.hand, finger=self.finger, label=self.label,
            name_fifth=None if semitones % 12 else self.name_fifth, is_proposed=self.is_proposed, voice=self.voice,
            ornament=self.ornament, grace_semitones=self.grace_semitones,
        )  # fmt: skip

    @property
    def end_tick(self) -> int:
        """Where the note ends, in ticks from the beginning."""
        return self.onset_tick + self.length_tick


place_of = attrgetter("onset_tick", "pitch")
"""Where a note stands: notes of a part are in order of it."""


def _in_order(notes: Iterable[Note]) -> tuple[Note, ...]:
    return tuple(sorted(notes, key=place_of))


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """A stretch of a part with a name of its own, from a bar to the next section."""

    bar: int
    name: str
    fifths: int | None = None
    """Its key signature, where it is another than the part's."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ChordMark:
    """From this tick on a chord sounds, by its name as musicians write it: “Am7”, “C/E”."""

    tick: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnLane:
    """What a lane of the kit is called in one part."""

    lane: str
    name: str

    def __post_init__(self) -> None:
        if not 1 <= len(self.name) <= MAX_LANE_NAME_LENGTH:
            raise ValueOutOfRange("lane_name_length", most=MAX_LANE_NAME_LENGTH)


@dataclass(frozen=True, kw_only=True)
class Part:
    """A target part: what should be played. Notes stand in order of (onset, pitch).

    Not slotted: it remembers its bars and its notes as arrays, which everything asks for.
    """

    kind: Kind
    notes: tuple[Note, ...]
    meters: MeterMap
    tempos: TempoMap
    fifths: int = 0
    """Key signature: sharps positive, flats negative."""
    sections: tuple[Section, ...] = ()
    """In order of bar: keys of a key chain, phrases."""
    least_bars: int = 1
    """Bars that the part has at least, played or not: rests at its end, an empty page."""
    cues: tuple[Note, ...] = ()
    """Heard, shown small, and never measured: a lead-in's strokes, the next key's first note."""
    chords: tuple[ChordMark, ...] = ()
    """In order of tick."""
    pedal: tuple[PedalMark, ...] = ()
    """The sustain pedal, in order; where two marks touch, it is changed."""
    lanes: tuple[OwnLane, ...] = ()
    """Of a drum part its lanes by names of its own, in the order in which they are listed; others follow."""
    form: WrittenForm | None = None
    """How the bars were written, if with signs of repetition. It says nothing of a part whose bars are others by now."""

    def __post_init__(self) -> None:
        if self.least_bars < 1:
            raise ValueOutOfRange("part_without_bars")
        starts = [section.bar for section in self.sections]
        if starts != sorted(set(starts)) or (starts and starts[0] < 1):
            raise ValueOutOfRange("sections_not_sorted")
        order = list(map(place_of, self.notes))
        if order != sorted(order):
            raise ValueOutOfRange("part_notes_not_sorted")
        marks = [chord.tick for chord in self.chords]
        if marks != sorted(set(marks)) or (marks and marks[0] < 0):
            raise ValueOutOfRange("chord_names_not_sorted")
        check_pedal(self.pedal)
        if len({own.lane for own in self.lanes}) < len(self.lanes):
            raise ValueOutOfRange("lane_named_twice")
        if abs(self.fifths) > MAX_FIFTHS:
            raise ValueOutOfRange("too_many_accidentals", fifths_max=MAX_FIFTHS)

    @classmethod
    def of(
        cls,
        notes: Iterable[Note],
        *,
        kind: Kind,
        meters: MeterMap,
        tempos: TempoMap,
        fifths: int = 0,
        sections: Iterable[Section] = (),
        least_bars: int = 1,
        cues: Iterable[Note] = (),
        chords: Iterable[ChordMark] = (),
        pedal: Iterable[PedalMark] = (),
        lanes: Iterable[OwnLane] = (),
        form: WrittenForm | None = None,
    ) -> "Part":
        """Return a part of notes given in any order."""
        return cls(
            kind=kind, notes=_in_order(notes), meters=meters, tempos=tempos, fifths=fifths,
            sections=tuple(sections), least_bars=least_bars, cues=_in_order(cues), chords=tuple(chords),
            pedal=tuple(pedal), lanes=tuple(lanes), form=form,
        )  # fmt: skip

    @property
    def instrument(self) -> Instrument:
        """What can be asked of its notes."""
        return self.kind.instrument

    def lane_name(self, pitch: int, kit: KitMap = STANDARD_KIT) -> str:
        """Return the name of a pitch's lane in this part: its own name, the kit's, or General MIDI's."""
        lane = kit.lane(pitch)
        known = lane.name if lane in kit.lanes else PERCUSSION.get(pitch, lane.name)
        return next((own.name for own in self.lanes if own.lane == lane.name), known)

    def lane_place(self, name: str) -> int:
        """Return the place of a lane, by the kit's name, in the part's order; after all others if it has none."""
        return next((k for k, own in enumerate(self.lanes) if own.lane == name), len(self.lanes))

    def with_notes(self, notes: Iterable[Note]) -> "Part":
        """Return the same part with other notes, in any order."""
        return replace(self, notes=_in_order(notes))

    def lasting(self, bars: int) -> "Part":
        """Return the same part with at least so many bars, which is noted only if its notes do not reach that
        far.
        """
        own = self.meters.bar_at(max(0, self._last_tick_that_counts() - 1)).number
        return replace(self, least_bars=1 if own >= bars else bars)

    @property
    def end_tick(self) -> int:
        """Where the last note ends; 0 in an empty part."""
        return max((n.end_tick for n in self.notes), default=0)

    @cached_property
    def names(self) -> tuple[int, ...]:
        """For each note its name on the line of fifths, as `ear.notes.spelling` finds it."""
        if not self.notes:
            return ()
        known = [UNKNOWN if n.name_fifth is None else n.name_fifth for n in self.notes]
        if self.chords:
            marks = [c.tick for c in self.chords]
            for i, note in enumerate(self.notes):
                k = bisect_right(marks, note.onset_tick) - 1
                if known[i] == UNKNOWN and k >= 0:
                    known[i] = tones_of(self.chords[k].name).get(note.pitch % 12, UNKNOWN)
        fifths: tuple[int, ...] = tuple(spelled(self.pitches, self._signatures, ints(known)).tolist())
        return fifths

    def named(self) -> "Part":
        """Return the same part with every name written out: notes as they are spelled, cues as their key has
        them.
        """
        if not self.instrument.has_key:
            return self
        notes = (replace(n, name_fifth=name) for n, name in zip(self.notes, self.names, strict=True))
        cues = (
            replace(
                n,
                name_fifth=name_in_key(n.pitch, self.fifths_at(n.onset_tick))
                if n.name_fifth is None
                else n.name_fifth,
            )
            for n in self.cues
        )
        return replace(self, notes=tuple(notes), cues=tuple(cues))

    @property
    def _signatures(self) -> Ints:
        """The key signature at each note."""
        fifths = np.full(len(self.notes), self.fifths, dtype=np.int64)
        for section in self.sections:
            fifths[self.bar_of_note >= section.bar] = (
                self.fifths if section.fifths is None else section.fifths
            )
        return fifths

    @cached_property
    def _name_at(self) -> dict[tuple[int, int], int]:
        return dict(zip(map(place_of, self.notes), self.names, strict=True))

    def name_of(self, pitch: int, tick: float) -> int:
        """Return the name, on the line of fifths, of a pitch at a tick: that of the note written there, else by
        itself in the key.
        """
        known_name = self._name_at.get((int(tick), pitch))
        return name_in_key(pitch, self.fifths_at(tick)) if known_name is None else known_name

    def fifths_at(self, tick: float) -> int:
        """Return the key signature in force at a tick: its section's, if that has one of its own."""
        if not self.sections:
            return self.fifths
        bar = self.meters.bar_at(tick).number
        named = [s for s in self.sections if s.bar <= bar]
        return self.fifths if not named or named[-1].fifths is None else named[-1].fifths

    def at_tempo(self, bpm: float) -> "Part":
        """Return the same part with its first tempo at `bpm` and later ones in proportion."""
        rate = bpm / self.tempos.first_bpm
        changes = [TempoChange(tick=c.tick, bpm=c.bpm * rate) for c in self.tempos.changes]
        return replace(self, tempos=TempoMap(changes))

    @cached_property
    def bars(self) -> tuple[Bar, ...]:
        """From bar 1 to the one in which the part ends; `least_bars` at least."""
        least = self.meters.bar(self.least_bars).end_tick
        return tuple(self.meters.bars(max(self._last_tick_that_counts(), least)))

    @cached_property
    def onset_ticks(self) -> Ints:
        """Ticks from the beginning, one for each note."""
        return ints(note.onset_tick for note in self.notes)

    @cached_property
    def end_ticks(self) -> Ints:
        """Ticks from the beginning to where notes end."""
        return ints(note.end_tick for note in self.notes)

    @cached_property
    def pitches(self) -> Ints:
        """MIDI note numbers, one for each note."""
        return ints(note.pitch for note in self.notes)

    @cached_property
    def velocities(self) -> Ints:
        """Velocities, 1 to 127, one for each note."""
        return ints(note.velocity for note in self.notes)

    @cached_property
    def hand_numbers(self) -> Ints:
        """For each note its hand's place in `HANDS`."""
        return ints(HANDS.index(note.hand) for note in self.notes)

    @cached_property
    def bar_starts(self) -> Ints:
        """For each bar the tick at which it begins."""
        return ints(bar.start_tick for bar in self.bars)

    @cached_property
    def bar_of_note(self) -> Ints:
        """For each note the number of the bar in which it begins."""
        return np.searchsorted(self.bar_starts, self.onset_ticks, side="right").astype(np.int64)

    @cached_property
    def ticks_into_bar(self) -> Ints:
        """For each note how far its onset is from the start of its bar."""
        into: Ints = self.onset_ticks - self.bar_starts[self.bar_of_note - 1]
        return into

    def bar_holding(self, note: int) -> Bar:
        """Return the bar in which a note, by index, begins."""
        return self.bars[int(self.bar_of_note[note]) - 1]

    def _last_tick_that_counts(self) -> int:
        if self.instrument.has_length:
            return self.end_tick
        # A stroke's length says nothing: a part ends in the bar of its last onset.
        return max((n.onset_tick + 1 for n in self.notes), default=0)
