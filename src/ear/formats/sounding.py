"""From note-on and note-off messages to notes, wherever the messages come from."""

from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from math import inf

MODULATION_WHEEL = 1
SUSTAIN_PEDAL = 64
ALL_NOTES_OFF = 123
"""Channel mode message (MIDI 1.0): ends whatever sounds on its channel."""
ALL_ENDED = -1
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
    is_open: bool = False
    """No message of its own ended it: it still sounded when the stream, or all notes of its channel, ended."""


@dataclass(slots=True, kw_only=True)
class NoteGatherer:
    """Pairs the messages of one stream as they come, in order of time.

    A note-on with velocity 0 is a note-off. A key that is struck again while it sounds: where as many ends
    follow as there are strokes, the first end is the first stroke's; where an end is missing, each stroke ends
    where the next begins. What still sounds at the end, ends there.
    """

    track: int = 0
    _moves: dict[tuple[int, int], list[tuple[float, int]]]
    """By channel and pitch, in order: a time, and the velocity of a stroke, 0 for an end, or `ALL_ENDED`."""

    @classmethod
    def fresh(cls, *, track: int = 0) -> "NoteGatherer":
        """Return an empty gatherer for one track."""
        return cls(track=track, _moves={})

    def note_on(self, time: float, *, channel: int, pitch: int, velocity: int) -> None:
        """Begin a note; velocity 0 ends one."""
        self._moves.setdefault((channel, pitch), []).append((time, velocity))

    def note_off(self, time: float, *, channel: int, pitch: int) -> None:
        """End a note; nothing happens if it does not sound."""
        self._moves.setdefault((channel, pitch), []).append((time, 0))

    def all_notes_off(self, time: float, *, channel: int) -> None:
        """End everything that sounds on a channel."""
        for (own_channel, _pitch), moves in self._moves.items():
            if own_channel == channel:
                moves.append((time, ALL_ENDED))

    def finish(self, time: float, *, endless: float = inf) -> list[Sounded]:
        """End every note and return all of them in order of (onset, pitch).

        A stroke that no message ends lasts at most so long.
        """
        sounded = [
            Sounded(
                onset=onset, end=end, pitch=pitch, velocity=velocity, channel=channel, track=self.track,
                is_open=is_open,
            )
            for (channel, pitch), moves in self._moves.items()
            for onset, end, velocity, is_open in _paired(moves, time, endless)
        ]  # fmt: skip
        return sorted(sounded, key=lambda n: (n.onset, n.pitch))


Stroke = tuple[float, float, int, bool]
"""Onset, end, velocity, and whether no message of its own ended it."""


def _paired(moves: Sequence[tuple[float, int]], last: float, endless: float) -> Iterator[Stroke]:
    """Pair the strokes of one key with their ends."""
    group: list[tuple[float, int]] = []
    depth = 0
    for move in moves:
        if move[1] == ALL_ENDED:
            yield from _cut_short(group, move[0], endless)
            group, depth = [], 0
            continue
        if not group and not move[1]:
            continue
        group.append(move)
        depth += 1 if move[1] else -1
        if depth == 0:
            yield from _first_come(group)
            group = []
    yield from _cut_short(group, last, endless)


def _first_come(group: Iterable[tuple[float, int]]) -> Iterator[Stroke]:
    waiting: deque[tuple[float, int]] = deque()
    for time, velocity in group:
        if velocity:
            waiting.append((time, velocity))
        else:
            onset, struck = waiting.popleft()
            yield onset, time, struck, False


def _cut_short(group: Sequence[tuple[float, int]], last: float, endless: float) -> Iterator[Stroke]:
    sounding: tuple[float, int] | None = None
    for k, (time, velocity) in enumerate((*group, (last, 0))):
        if sounding is not None:
            is_ended = not velocity and k < len(group)
            end = time if is_ended else min(time, sounding[0] + endless)
            # A key that is struck again was let go before, whenever that was.
            yield sounding[0], end, sounding[1], k == len(group)
        sounding = (time, velocity) if velocity else None


def pedal_spans(changes: Iterable[tuple[float, int]], *, end: float) -> list[tuple[float, float]]:
    """Return the spans in which the pedal was held, from (time, controller value) pairs in order of time."""
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
