"""Passes laid over each other: what stands of each, and the take that they make together.

A pass is kept as it came. A later one that replaces takes out what began in its stretch; nothing that
was stored changes, so that any pass can be taken back.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from ear.errors import ValueOutOfRange
from ear.formats.events import (
    BEND_CENTRE,
    STATUS_BEND,
    STATUS_CONTROL,
    STATUS_NOTE_OFF,
    STATUS_NOTE_ON,
    RawEvent,
    take_from_events,
)  # fmt: skip
from ear.formats.sounding import PEDAL_DOWN_FROM, SUSTAIN_PEDAL
from ear.notes import Take


class PassMode(StrEnum):
    """How a pass is laid."""

    OVER = "over"
    REPLACE = "replace"


@dataclass(frozen=True, slots=True, kw_only=True)
class Pass:
    """One pass as it was recorded. Times of its stretch are in ms from bar 1, latency taken off."""

    events: tuple[RawEvent, ...]
    way: PassMode = PassMode.OVER
    latency_ms: float = 0.0
    has_touch: bool = True
    from_ms: float = float("-inf")
    until_ms: float = float("inf")
    pitches: frozenset[int] = frozenset()
    """What it replaces: these pitches, a lane's; empty for all."""
    pads: Mapping[int, int] = field(default_factory=dict)
    """Numbers that an instrument's pads send, and those that are meant."""

    def __post_init__(self) -> None:
        if self.from_ms >= self.until_ms:
            raise ValueOutOfRange("pass_ends_before_start")

    def read_events(self) -> tuple[RawEvent, ...]:
        """Return the events in order of time, with latency subtracted and pads translated to the drums that are
        meant.
        """
        return tuple(
            sorted(
                (
                    (time - self.latency_ms, status, self.pads.get(data1, data1) if _is_note(status) else data1, data2)
                    for time, status, data1, data2 in self.events
                ),
                key=lambda event: event[0],
            )
        )  # fmt: skip


def standing(passes: Sequence[Pass]) -> tuple[tuple[RawEvent, ...], ...]:
    """Return, for each pass, its events that later passes have left, with times in ms from bar 1 and latency
    subtracted.

    A note goes with its beginning: what rings into a stretch that is replaced, rings on. What brings a
    controller to rest stays, so that nothing hangs.
    """
    left_of_each = []
    for index, own in enumerate(passes):
        events = own.read_events()
        for later in passes[index + 1 :]:
            if later.way is PassMode.REPLACE:
                events = _without(events, later)
        left_of_each.append(events)
    return tuple(left_of_each)


def layered(passes: Sequence[Pass]) -> Take:
    """Return one take of all passes. It has touch if any pass has."""
    takes = [
        take_from_events(events, has_touch=own.has_touch)
        for own, events in zip(passes, standing(passes), strict=True)
    ]
    return Take.of(
        (note for take in takes for note in take.notes),
        pedal=(span for take in takes for span in take.pedal),
        bend=(move for take in takes for move in take.bend),
        modulation=(move for take in takes for move in take.modulation),
        has_touch=any(own.has_touch for own in passes) if passes else True,
        latency_ms=passes[0].latency_ms if passes else 0.0,
    )


def pass_of_notes(passes: Sequence[Pass]) -> tuple[int, ...]:
    """Return, for each note of the layered take, the number of its pass, from 0."""
    notes = [
        (note.onset_s, note.pitch, number)
        for number, events in enumerate(standing(passes))
        for note in take_from_events(events).notes
    ]
    return tuple(number for _, _, number in sorted(notes, key=lambda note: note[:2]))


def has_touch(events: Iterable[RawEvent]) -> bool:
    """Return whether the notes differ in velocity. A source that gives all notes one velocity has no touch."""
    strengths = {data2 for _, status, _, data2 in events if status & 0xF0 == STATUS_NOTE_ON and data2 > 0}
    return len(strengths) > 1


def _is_note(status: int) -> bool:
    return status & 0xF0 in (STATUS_NOTE_ON, STATUS_NOTE_OFF)


def _without(events: Sequence[RawEvent], later: Pass) -> tuple[RawEvent, ...]:
    kept: list[RawEvent] = []
    gone: set[tuple[int, int]] = set()
    """Keys whose note was taken out and has not ended yet."""
    for event in events:
        time, status, data1, data2 = event
        key, inside = (status & 0x0F, data1), later.from_ms <= time < later.until_ms
        if status & 0xF0 == STATUS_NOTE_ON and data2 > 0:
            if inside and (not later.pitches or data1 in later.pitches):
                gone.add(key)
                continue
            gone.discard(key)
        elif _is_note(status) and key in gone:
            gone.discard(key)
            continue
        elif not _is_note(status) and inside and not later.pitches and not _is_rest(event):
            continue
        kept.append(event)
    return tuple(kept)


def _is_rest(event: RawEvent) -> bool:
    _, status, data1, data2 = event
    if status & 0xF0 == STATUS_CONTROL:
        return data2 < PEDAL_DOWN_FROM if data1 == SUSTAIN_PEDAL else data2 == 0
    if status & 0xF0 == STATUS_BEND:
        return (data1, data2) == BEND_CENTRE
    return False
