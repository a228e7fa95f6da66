"""From note-on and note-off messages to notes, wherever the messages come from."""

from collections.abc import Iterable
from dataclasses import dataclass

SUSTAIN_PEDAL = 64
PEDAL_DOWN_FROM = 64
"""Controller value from which a pedal counts as held (MIDI 1.0)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sounded:
    """A note between its two messages; times in whatever unit the messages had."""

    onset: float
    end: float
    pitch: int
    velocity: int
    channel: int
    track: int = 0


@dataclass(slots=True, kw_only=True)
class NoteGatherer:
    """Pairs the messages of one stream as they come, in order of time.

    A note-on with velocity 0 is a note-off; a second note-on of a sounding pitch ends the
    first note there; what still sounds at the end, ends there.
    """

    track: int = 0
    _open: dict[tuple[int, int], tuple[float, int]]
    _done: list[Sounded]

    @classmethod
    def fresh(cls, *, track: int = 0) -> "NoteGatherer":
        """A gatherer of one track, with nothing in it."""
        return cls(track=track, _open={}, _done=[])

    def note_on(self, time: float, *, channel: int, pitch: int, velocity: int) -> None:
        """A note begins; the same note sounding still is ended. Velocity 0 ends only."""
        self.note_off(time, channel=channel, pitch=pitch)
        if velocity > 0:
            self._open[channel, pitch] = (time, velocity)

    def note_off(self, time: float, *, channel: int, pitch: int) -> None:
        """A note ends; without effect if it does not sound."""
        sounding = self._open.pop((channel, pitch), None)
        if sounding is not None:
            onset, velocity = sounding
            self._done.append(
                Sounded(
                    onset=onset, end=time, pitch=pitch, velocity=velocity,
                    channel=channel, track=self.track,
                )
            )  # fmt: skip

    def finish(self, time: float) -> list[Sounded]:
        """End everything and give all notes in order of (onset, pitch)."""
        for channel, pitch in list(self._open):
            self.note_off(time, channel=channel, pitch=pitch)
        return sorted(self._done, key=lambda n: (n.onset, n.pitch))


def pedal_spans(changes: Iterable[tuple[float, int]], *, end: float) -> list[tuple[float, float]]:
    """Spans in which the pedal was held, from (time, controller value) in order of time."""
    spans: list[tuple[float, float]] = []
    down: float | None = None
    for time, value in changes:
        if value >= PEDAL_DOWN_FROM and down is None:
            down = time
        elif value < PEDAL_DOWN_FROM and down is not None:
            spans.append((down, time))
            down = None
    if down is not None:
        spans.append((down, max(end, down)))
    return spans
