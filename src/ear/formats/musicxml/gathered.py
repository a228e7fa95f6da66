"""What has been read of one part, and the part that it becomes."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from ear.editing.cleaning import struck_once
from ear.formats import limits
from ear.formats.account import ImportLosses, Lost
from ear.formats.limits import Counted
from ear.formats.multi_part_import import hand_named
from ear.formats.musicxml.levels import Levels
from ear.notes import (
    Articulation,
    ChordMark,
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Ornament,
    Part,
    PedalMark,
    Section,
    StaffSign,
    TempoChange,
    TempoMap,
    ornaments_of,
)  # fmt: skip
from ear.notes.note import MAX_VOICES
from ear.notes.signs import STACCATO_TIMES
from ear.patterns.modes import key_name
from ear.units import MAX_VELOCITY, MIN_VELOCITY

DEFAULT_BPM = 120.0


@dataclass(slots=True, kw_only=True)
class Sounding:
    """A note as it is put together from its tied pieces."""

    onset: Fraction
    end: Fraction
    pitch: int
    velocity: int | None
    """As the file gives it; None where signs say how loud it is."""
    louder: int
    """Velocity steps that its own marks add to what the signs say."""
    staff: int
    finger: int | None
    label: str | None
    attack: int
    release: int
    is_cue: bool
    name_fifth: int | None = None
    voice: str = ""
    step: int | None = None
    """The diatonic step on which it is written, from C of octave 0; None for a drum stroke."""
    ornament: Ornament | None = None
    grace_semitones: int | None = None
    articulations: frozenset[Articulation] = frozenset()


@dataclass(slots=True)
class ReadTotals:
    """How much was read, over all parts of a score."""

    notes: Counted = field(default_factory=lambda: Counted(limits.NOTES, "notes"))
    tempos: Counted = field(default_factory=lambda: Counted(limits.TEMPOS, "changes of tempo"))
    marks: Counted = field(
        default_factory=lambda: Counted(limits.MARKS, "texts, chord names and pedal strokes")
    )
    steps: Counted = field(
        default_factory=lambda: Counted(limits.PLAYED_ELEMENTS, "notes and rests, with all repeats")
    )


@dataclass(slots=True, kw_only=True)
class Gathered:
    """Times in ticks of ours, as fractions until all is read; bars, and what stands at them, by number."""

    name: str
    account: ImportLosses
    counts: "ReadTotals"
    bar: int = 1
    """Which is being read, as bars are played."""
    has_pickup: bool = False
    """Is the first bar bar 0?"""
    levels: Levels = field(default_factory=Levels)
    staves: int = 1
    kind: Kind = Kind.KEYBOARD
    notes: list[Sounding] = field(default_factory=list)
    tempos: dict[int, float] = field(default_factory=dict)
    chords: dict[int, str] = field(default_factory=dict)
    pedal: list[PedalMark] = field(default_factory=list)
    pedal_from: int | None = None
    """Where the pedal that is down went down."""
    signs: set[StaffSign] = field(default_factory=set)
    open_slurs: dict[str, tuple[int, bool]] = field(default_factory=dict)
    """By number where a slur begins, and whether at the left hand's staff."""
    sections: dict[int, Section] = field(default_factory=dict)
    keys: dict[int, int] = field(default_factory=dict)
    meters: list[Meter] = field(default_factory=list)

    def lose(self, feature: Lost, count: int = 1) -> None:
        """Count a feature of the current bar that is not imported."""
        self.account.lose(feature, self.bar, count)

    def part(self) -> Part:
        """Return the part gathered from the document. Raises ValueOutOfRange."""
        if self.staves > 2:
            self.account.lose(Lost.STAVES)
        only = hand_named(self.name) if self.staves == 1 else None

        # A kit says itself which strokes are the feet's.
        voices = {} if self.kind.instrument.has_lanes else _voices(self.notes)

        # A kit's accents are its stronger strokes.
        velocity_shows = frozenset({Articulation.ACCENT} if self.kind.instrument.has_lanes else ())

        def made(note: Sounding) -> Note:
            onset = max(0, round(note.onset) + note.attack)
            velocity = note.velocity
            if velocity is None:
                velocity = max(
                    MIN_VELOCITY, min(MAX_VELOCITY, self.levels.at(round(note.onset)) + note.louder)
                )
            hand = only
            if self.kind.instrument.has_hands and self.staves > 1:
                hand = Hand.RIGHT if note.staff == 1 else Hand.LEFT
            length = max(1, round(note.end) + note.release - onset)
            if Articulation.STACCATO in note.articulations and not note.release:
                length = max(1, length // STACCATO_TIMES)
            return Note(
                onset_tick=onset, length_tick=length, pitch=note.pitch,
                velocity=velocity, hand=hand if self.kind.instrument.has_hands else None, finger=note.finger,
                label=note.label, name_fifth=note.name_fifth, voice=voices.get((note.staff, note.voice)),
                ornament=note.ornament if note.ornament in ornaments_of(self.kind.instrument) else None,
                grace_semitones=note.grace_semitones,
                articulations=tuple(each for each in Articulation if each in note.articulations - velocity_shows),
            )  # fmt: skip

        keys = self.keys or {1: 0}
        first = keys[1]
        notes, doubled = struck_once(
            (made(n) for n in self.notes if not n.is_cue), keeps_unisons=self.kind.instrument.has_length
        )
        meters = _meter_map(self.meters)
        for tick in doubled:
            self.account.lose(Lost.DOUBLED, meters.bar_at(tick).number - self.has_pickup)
        for tick in (each.onset_tick for each in notes if each.unison is not None):
            self.account.lose(Lost.UNISON, meters.bar_at(tick).number - self.has_pickup)
        part = Part.of(
            notes,
            kind=self.kind,
            meters=meters,
            tempos=self._tempo_map(),
            fifths=first,
            sections=self._with_keys(first) if self.kind.instrument.has_key else self.sections.values(),
            cues=(made(n) for n in self.notes if n.is_cue),
            chords=(ChordMark(tick=tick, name=name) for tick, name in sorted(self.chords.items())),
            pedal=self._held() if self.kind.instrument.has_pedal else (),
            signs=self.signs,
        ).lasting(max(1, len(self.meters)))
        return part.numbered_from(0 if self.has_pickup else 1)

    def _held(self) -> list[PedalMark]:
        """The pedal in order; one that is never lifted is held to the last note's end. Two staves may each
        write the one foot: what overlaps is told once."""
        marks = list(self.pedal)
        end = max((round(note.end) for note in self.notes), default=0)
        if self.pedal_from is not None and self.pedal_from < end:
            marks.append(PedalMark(start_tick=self.pedal_from, end_tick=end))
        kept_marks: list[PedalMark] = []
        for mark in sorted(marks, key=lambda m: m.start_tick):
            if not kept_marks or mark.start_tick >= kept_marks[-1].end_tick:
                kept_marks.append(mark)
        return kept_marks

    def _tempo_map(self) -> TempoMap:
        tempos = sorted(self.tempos.items())
        if not tempos or tempos[0][0] != 0:
            tempos.insert(0, (0, tempos[0][1] if tempos else DEFAULT_BPM))
        return TempoMap([TempoChange(tick=tick, bpm=bpm) for tick, bpm in tempos])

    def _with_keys(self, first: int) -> list[Section]:
        """Sections, with one more at each change of key that none begins at."""
        if set(self.keys.values()) <= {first}:
            return list(self.sections.values())
        sections: list[Section] = []
        before = first
        for bar, fifths in sorted(self.keys.items()):
            section = self.sections.get(bar)
            if section is None and fifths != before:
                section = Section(bar=bar, name=key_name(fifths))
            if section is not None:
                sections.append(replace(section, fifths=fifths))
            before = fifths
        return sections


def _voices(notes: Iterable[Sounding]) -> dict[tuple[int, str], int]:
    """Numbers of voices within their staff, where it has more than one; those beyond what can be read have none."""
    by_staff: dict[int, set[str]] = {}
    for note in notes:
        if not note.is_cue:
            by_staff.setdefault(note.staff, set()).add(note.voice)
    return {
        (staff, voice): number
        for staff, voices in by_staff.items() if len(voices) > 1
        for number, voice in enumerate(sorted(voices, key=lambda v: (len(v), v))[:MAX_VOICES], start=1)
    }  # fmt: skip


def _meter_map(meters: Sequence[Meter]) -> MeterMap:
    changes = [
        MeterChange(bar=number, meter=meter)
        for number, meter in enumerate(meters, start=1)
        if number == 1 or meters[number - 2] != meter
    ]
    return MeterMap(changes)
