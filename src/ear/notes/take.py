"""Notes as a take holds them."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from ear.errors import ValueOutOfRange
from ear.notes.values import Floats, Ints, check_pitch_and_velocity, floats, ints


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeNote:
    """One note as it was played, in seconds from the downbeat of bar 1."""

    onset_s: float
    length_s: float
    pitch: int
    velocity: int
    is_held: bool = False
    """The key was still down when the recording ended: how long the note would have been held is not known."""

    def __post_init__(self) -> None:
        check_pitch_and_velocity(self.pitch, self.velocity)
        if self.length_s < 0:
            raise ValueOutOfRange("note_cannot_end_before_it")


@dataclass(frozen=True, slots=True, kw_only=True)
class PedalSpan:
    """The sustain pedal held, in seconds from the downbeat of bar 1."""

    start_s: float
    end_s: float


@dataclass(frozen=True, kw_only=True)
class Take:
    """One recorded attempt. Notes stand in order of (onset, pitch); latency is already off.

    Not slotted: it remembers its notes as arrays.
    """

    notes: tuple[TakeNote, ...]
    pedal: tuple[PedalSpan, ...] = ()
    has_touch: bool = True
    """False where the source has no velocity of its own: typing keys, a mouse."""
    latency_ms: float = 0.0
    """What was taken off, kept to be shown."""

    def __post_init__(self) -> None:
        order = [(n.onset_s, n.pitch) for n in self.notes]
        if order != sorted(order):
            raise ValueOutOfRange("take_s_notes_stand_order")

    @classmethod
    def of(
        cls,
        notes: Iterable[TakeNote],
        *,
        pedal: Iterable[PedalSpan] = (),
        has_touch: bool = True,
        latency_ms: float = 0.0,
    ) -> "Take":
        """A take of notes in any order."""
        return cls(
            notes=tuple(sorted(notes, key=lambda n: (n.onset_s, n.pitch))),
            pedal=tuple(pedal),
            has_touch=has_touch,
            latency_ms=latency_ms,
        )

    def at(self, onsets_s: Sequence[float], *, pedal: Iterable[PedalSpan]) -> "Take":
        """The same notes begun at other times, (n,) seconds that never fall: each keeps its place in the row.

        Times that fall together, as those nearer than a double tells apart do in another tempo, are kept apart by the
        least there is, where the pitches would swap otherwise.
        """
        notes: list[TakeNote] = []
        for note, onset in zip(self.notes, onsets_s, strict=True):
            at = onset
            if notes and at <= notes[-1].onset_s:
                last = notes[-1]
                at = last.onset_s if note.pitch >= last.pitch else math.nextafter(last.onset_s, math.inf)
            notes.append(replace(note, onset_s=at))
        return replace(self, notes=tuple(notes), pedal=tuple(pedal))

    @cached_property
    def onsets_s(self) -> Floats:
        """Seconds from the beginning of bar 1, one for each note."""
        return floats(note.onset_s for note in self.notes)

    @cached_property
    def lengths_s(self) -> Floats:
        """Seconds that notes are held."""
        return floats(note.length_s for note in self.notes)

    @cached_property
    def pitches(self) -> Ints:
        """MIDI note numbers, one for each note."""
        return ints(note.pitch for note in self.notes)

    @cached_property
    def velocities(self) -> Ints:
        """Velocities, 1 to 127, one for each note."""
        return ints(note.velocity for note in self.notes)
