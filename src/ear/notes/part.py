"""A part: notes with their bars, tempos, keys, sections, chord names and signs."""

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ear.errors import ValueOutOfRange
from ear.notes.chord_names import tones_of
from ear.notes.form import WrittenForm
from ear.notes.instrument import Instrument, Kind
from ear.notes.kit import PERCUSSION, STANDARD_KIT, KitMap
from ear.notes.meter import Bar, MeterMap, TempoChange, TempoMap
from ear.notes.note import HANDS, Note, place_of
from ear.notes.pedal import PedalMark, check_pedal
from ear.notes.pitch import name_in_key
from ear.notes.signs import FERMATA_TIMES, StaffSign, check_signs, sign_place
from ear.notes.spelling import UNKNOWN, spelled
from ear.notes.values import Ints, ints

MAX_FIFTHS = 7
MAX_LANE_NAME_LENGTH = 24


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
    signs: tuple[StaffSign, ...] = ()
    """Slurs, fermatas and words, in order of place."""
    form: WrittenForm | None = None
    """How the bars were written, if with signs of repetition. It says nothing of a part whose bars are others by now."""

    def __post_init__(self) -> None:
        if self.least_bars < 1:
            raise ValueOutOfRange("part_without_bars")
        starts = [section.bar for section in self.sections]
        if starts != sorted(set(starts)) or (starts and starts[0] < self.first_bar):
            raise ValueOutOfRange("sections_not_sorted")
        order = list(map(place_of, self.notes))
        if order != sorted(order):
            raise ValueOutOfRange("part_notes_not_sorted")
        marks = [chord.tick for chord in self.chords]
        if marks != sorted(set(marks)) or (marks and marks[0] < 0):
            raise ValueOutOfRange("chord_names_not_sorted")
        check_pedal(self.pedal)
        check_signs(self.signs)
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
        signs: Iterable[StaffSign] = (),
        form: WrittenForm | None = None,
    ) -> "Part":
        """Return a part of notes given in any order."""
        return cls(
            kind=kind, notes=_in_order(notes), meters=meters, tempos=tempos, fifths=fifths,
            sections=tuple(sections), least_bars=least_bars, cues=_in_order(cues), chords=tuple(chords),
            pedal=tuple(pedal), lanes=tuple(lanes), signs=tuple(sorted(signs, key=sign_place)), form=form,
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
        own = self.meters.bar_at(max(0, self._last_tick_that_counts() - 1)).number - self.first_bar + 1
        return replace(self, least_bars=1 if own >= bars else bars)

    def numbered_from(self, bar: int) -> "Part":
        """Return the same part with its first bar so numbered: 0 makes it a pick-up."""
        by = bar - self.first_bar
        if not by:
            return self
        return replace(
            self,
            meters=self.meters.numbered_from(bar),
            sections=tuple(replace(s, bar=s.bar + by) for s in self.sections),
        )

    @property
    def first_bar(self) -> int:
        """The number of the first bar: 1, or 0 if that is a pick-up."""
        return self.meters.first_bar

    @property
    def last_bar(self) -> int:
        """The number of the last bar."""
        return self.bars[-1].number

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
        fifths: tuple[int, ...] = tuple(
            spelled(self.pitches, self._signatures, ints(known), onsets=self.onset_ticks).tolist()
        )
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

    @property
    def stated_tempos(self) -> tuple[TempoChange, ...]:
        """The tempos that are said of the part: without those by which the click waits under a fermata."""
        hidden = set()
        for sign in (each for each in self.signs if each.waits):
            hidden.add(sign.tick)
            if self.tempos.bpm_at(sign.end_tick) == FERMATA_TIMES * self.tempos.bpm_at(sign.end_tick - 1):
                hidden.add(sign.end_tick)
        return tuple(c for c in self.tempos.changes if c.tick not in hidden or not c.tick)

    @cached_property
    def bars(self) -> tuple[Bar, ...]:
        """From the first to the one in which the part ends; `least_bars` at least."""
        least = self.meters.bar(self.first_bar + self.least_bars - 1).end_tick
        return tuple(self.meters.bars(max(self._last_tick_that_counts(), least)))

    def bars_before(self, count_in_bars: int) -> int:
        """Return how many whole bars of a count-in are clicked before the first bar.

        The rests before a pick-up are clicked, too: half a bar of them or more is a bar of the count-in.
        """
        rests = self.notes[0].onset_tick if self.notes and not self.first_bar else 0
        return max(0, count_in_bars - (2 * rests >= self.meters.first.bar_ticks))

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
        numbers: Ints = self.bar_index_of_note + self.first_bar
        return numbers

    @cached_property
    def bar_index_of_note(self) -> Ints:
        """For each note the index of its bar in `bars`."""
        return np.searchsorted(self.bar_starts, self.onset_ticks, side="right").astype(np.int64) - 1

    @cached_property
    def ticks_into_bar(self) -> Ints:
        """For each note how far its onset is from the start of its bar."""
        into: Ints = self.onset_ticks - self.bar_starts[self.bar_index_of_note]
        return into

    def bar_holding(self, note: int) -> Bar:
        """Return the bar in which a note, by index, begins."""
        return self.bars[int(self.bar_index_of_note[note])]

    def _last_tick_that_counts(self) -> int:
        if self.instrument.has_length:
            return self.end_tick
        # A stroke's length says nothing: a part ends in the bar of its last onset.
        return max((n.onset_tick + 1 for n in self.notes), default=0)
