"""Notes as a take holds them."""

import math
from collections.abc import Callable, Iterable, Sequence
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
            raise ValueOutOfRange("note_ends_before_start")


@dataclass(frozen=True, slots=True, kw_only=True)
class PedalSpan:
    """The sustain pedal held, in seconds from the downbeat of bar 1."""

    start_s: float
    end_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WheelMove:
    """A wheel moved to a position, in which it stays until its next move."""

    time_s: float
    """Seconds from the downbeat of bar 1."""
    position: float
    """Pitch bend: −1 (lowest) to 1 (highest). Modulation: 0 to 1. Both rest at 0."""


@dataclass(frozen=True, kw_only=True)
class Take:
    """One recorded attempt. Notes stand in order of (onset, pitch); latency is already off.

    Not slotted: it remembers its notes as arrays.
    """

    notes: tuple[TakeNote, ...]
    pedal: tuple[PedalSpan, ...] = ()
    bend: tuple[WheelMove, ...] = ()
    """Moves of the pitch bend wheel, in order of time."""
    modulation: tuple[WheelMove, ...] = ()
    """Moves of the modulation wheel, in order of time."""
    has_touch: bool = True
    """False where the source has no velocity of its own: typing keys, a mouse."""
    latency_ms: float = 0.0
    """What was taken off, kept to be shown."""

    def __post_init__(self) -> None:
        order = [(n.onset_s, n.pitch) for n in self.notes]
        if order != sorted(order):
            raise ValueOutOfRange("take_notes_not_sorted")

    @classmethod
    def of(
        cls,
        notes: Iterable[TakeNote],
        *,
        pedal: Iterable[PedalSpan] = (),
        bend: Iterable[WheelMove] = (),
        modulation: Iterable[WheelMove] = (),
        has_touch: bool = True,
        latency_ms: float = 0.0,
    ) -> "Take":
        """Return a take whose notes and moves of wheels may be given in any order."""
        return cls(
            notes=tuple(sorted(notes, key=lambda n: (n.onset_s, n.pitch))),
            pedal=tuple(pedal),
            bend=tuple(sorted(bend, key=lambda move: move.time_s)),
            modulation=tuple(sorted(modulation, key=lambda move: move.time_s)),
            has_touch=has_touch,
            latency_ms=latency_ms,
        )

    def at(self, onsets_s: Sequence[float], *, move_time: Callable[[float], float]) -> "Take":
        """Return the same notes begun at other times.

        The times have shape (n,), in seconds, and never fall: each note keeps its place in the order.

        `move_time` says for a second of the take when its pedal and wheels move instead; it never falls, either.

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

        def moved(wheel: tuple[WheelMove, ...]) -> tuple[WheelMove, ...]:
            return tuple(replace(move, time_s=move_time(move.time_s)) for move in wheel)

        return replace(
            self,
            notes=tuple(notes),
            pedal=tuple(
                PedalSpan(start_s=move_time(span.start_s), end_s=move_time(span.end_s)) for span in self.pedal
            ),
            bend=moved(self.bend),
            modulation=moved(self.modulation),
        )

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
