"""What has been read of one part, and the part that it becomes."""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from ear.notes import (
    ChordMark,
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    PedalMark,
    Section,
    TempoChange,
    TempoMap,
)  # fmt: skip
from ear.patterns.modes import key_name

DEFAULT_BPM = 120.0
DEFAULT_VELOCITY = 80


@dataclass(slots=True, kw_only=True)
class Sounding:
    """A note as it is put together from its tied pieces."""

    onset: Fraction
    end: Fraction
    pitch: int
    velocity: int
    staff: int
    finger: int | None
    label: str | None
    attack: int
    release: int
    is_cue: bool
    fifth: int | None = None


@dataclass(slots=True, kw_only=True)
class Gathered:
    """Times in ticks of ours, as fractions until all is read; bars, and what stands at them, by number."""

    name: str
    missed: Counter[str]
    meter: Meter = field(default_factory=lambda: Meter(numerator=4, denominator=4))
    velocity: int = DEFAULT_VELOCITY
    """That of the last dynamic mark."""
    staves: int = 1
    kind: Kind = Kind.KEYBOARD
    notes: list[Sounding] = field(default_factory=list)
    tempos: dict[int, float] = field(default_factory=dict)
    chords: dict[int, str] = field(default_factory=dict)
    pedal: list[PedalMark] = field(default_factory=list)
    pedal_from: int | None = None
    """Where the pedal that is down went down."""
    sections: dict[int, Section] = field(default_factory=dict)
    keys: dict[int, int] = field(default_factory=dict)
    meters: list[Meter] = field(default_factory=list)

    def part(self) -> Part:
        """The part that was read; what could not be said in it is counted in `missed`."""
        if self.staves > 2:
            self.missed["Staves below the second are read as the left hand"] += 1
        name = self.name.lower()
        whole = {hand for hand in Hand if f"{hand.value} hand" in name}
        only = next(iter(whole)) if len(whole) == 1 and self.staves == 1 else None

        def made(note: Sounding) -> Note:
            onset = max(0, round(note.onset) + note.attack)
            hand = only
            if self.kind.instrument.has_hands and self.staves > 1:
                hand = Hand.RIGHT if note.staff == 1 else Hand.LEFT
            return Note(
                onset_tick=onset, length_tick=max(1, round(note.end) + note.release - onset), pitch=note.pitch,
                velocity=note.velocity, hand=hand if self.kind.instrument.has_hands else None, finger=note.finger,
                label=note.label, fifth=note.fifth,
            )  # fmt: skip

        keys = self.keys or {1: 0}
        first = keys[1]
        return Part.of(
            _one_each(made(n) for n in self.notes if not n.is_cue),
            kind=self.kind,
            meters=_meter_map(self.meters or [self.meter]),
            tempos=self._tempo_map(),
            fifths=first,
            sections=self._with_keys(first) if self.kind.instrument.has_key else self.sections.values(),
            cues=(made(n) for n in self.notes if n.is_cue),
            chords=(ChordMark(tick=tick, name=name) for tick, name in sorted(self.chords.items())),
            pedal=self._held() if self.kind.instrument.has_pedal else (),
        ).lasting(max(1, len(self.meters)))

    def _held(self) -> list[PedalMark]:
        """The pedal in order; one that is never lifted is held to the last note's end. Two staves may each
        write the one foot: what overlaps is told once."""
        marks = list(self.pedal)
        end = max((round(note.end) for note in self.notes), default=0)
        if self.pedal_from is not None and self.pedal_from < end:
            marks.append(PedalMark(start_tick=self.pedal_from, end_tick=end))
        found: list[PedalMark] = []
        for mark in sorted(marks, key=lambda m: m.start_tick):
            if not found or mark.start_tick >= found[-1].end_tick:
                found.append(mark)
        return found

    def _tempo_map(self) -> TempoMap:
        found = sorted(self.tempos.items())
        if not found or found[0][0] != 0:
            found.insert(0, (0, found[0][1] if found else DEFAULT_BPM))
        return TempoMap([TempoChange(tick=tick, bpm=bpm) for tick, bpm in found])

    def _with_keys(self, first: int) -> list[Section]:
        """Sections, with one more at each change of key that none begins at."""
        if set(self.keys.values()) <= {first}:
            return list(self.sections.values())
        found: list[Section] = []
        before = first
        for bar, fifths in sorted(self.keys.items()):
            section = self.sections.get(bar)
            if section is None and fifths != before:
                section = Section(bar=bar, name=key_name(fifths))
            if section is not None:
                found.append(replace(section, fifths=fifths))
            before = fifths
        return found


def _one_each(notes: Iterator[Note]) -> list[Note]:
    """Of notes of one pitch at one place the strongest: two voices may share a key."""
    found: dict[tuple[int, int], Note] = {}
    for note in notes:
        place = (note.onset_tick, note.pitch)
        if place not in found or found[place].velocity < note.velocity:
            found[place] = note
    return list(found.values())


def _meter_map(meters: Sequence[Meter]) -> MeterMap:
    changes = [
        MeterChange(bar=number, meter=meter)
        for number, meter in enumerate(meters, start=1)
        if number == 1 or meters[number - 2] != meter
    ]
    return MeterMap(changes)
