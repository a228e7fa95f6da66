"""Raw take events: MIDI messages with a time in ms, as a recorder stores them.

An event is `[time_ms, status, data1, data2]`: time from the downbeat of bar 1 as the click
was scheduled, negative before it, with no latency taken off; the rest are the message's
bytes. They are kept unchanged; a take is read from them whenever it is needed.

Keys that are still down when the recording ends have no note-off: the recorder ends them with
All Notes Off, so that they are known to have been held.
"""

from collections.abc import Iterable, Sequence
from typing import Any

from ear.errors import FormatError
from ear.formats.limits import TAKE_NOTES
from ear.formats.sounding import ALL_NOTES_OFF, MODULATION_WHEEL, SUSTAIN_PEDAL, NoteGatherer, pedal_spans
from ear.notes import PedalSpan, Take, TakeNote, WheelMove
from ear.text import term

MAX_EVENTS = 100_000
MAX_TIME_MS = 3_600_000.0
"""An hour: no exercise is longer."""
STATUS_NOTE_OFF, STATUS_NOTE_ON, STATUS_CONTROL, STATUS_BEND = 0x80, 0x90, 0xB0, 0xE0
BEND_CENTRE = (0, 64)
"""Data bytes of a pitch bend at rest (MIDI 1.0)."""
BEND_LOWEST = 8192
"""How far below its centre the bend wheel's 14 bits go; above it there is one step less (MIDI 1.0)."""
MAX_CONTROL = 127
CHANNEL_MESSAGES = range(0x80, 0xF0)
MAX_DATA = 127
NUMBERS = (int, float)

RELEASE_VELOCITY = 64
MIN_HELD_S = 0.5
"""Length of a note that was still held when the recording ended, where nothing says when that was."""

RawEvent = tuple[float, int, int, int]


def check_events(value: Any) -> list[RawEvent]:
    """Return events that came from outside with their types. Raises FormatError, which says what is wrong and where."""
    if not isinstance(value, list):
        raise FormatError(expected=term("a list of events"), actual=type(value).__name__)
    if len(value) > MAX_EVENTS:
        raise FormatError(expected=f"at most {MAX_EVENTS:,} events", actual=f"{len(value):,}")
    events: list[RawEvent] = []
    for index, row in enumerate(value):
        if not _is_event(row):
            raise FormatError(expected=term("MIDI events"), actual=f"{row!r:.60} as event {index}")
        events.append((float(row[0]), row[1], row[2], row[3]))
    if count_notes(events) > TAKE_NOTES:
        raise FormatError(expected=f"at most {TAKE_NOTES:,} notes in a take", actual="more")
    return events


def is_note_on(event: RawEvent) -> bool:
    """Return whether a note begins. A note-on of no velocity ends one (MIDI 1.0)."""
    return event[1] & 0xF0 == STATUS_NOTE_ON and event[3] > 0


def count_notes(events: Iterable[RawEvent]) -> int:
    """Return how many notes begin among raw events."""
    return sum(map(is_note_on, events))


def _is_event(row: Any) -> bool:
    if not isinstance(row, list | tuple) or len(row) != 4:
        return False
    time_ms, status, data1, data2 = row
    # By type, not by class: a bool is no number here. What is not a number at all is in no range.
    return (
        type(time_ms) in NUMBERS
        and type(status) is type(data1) is type(data2) is int
        and -MAX_TIME_MS <= time_ms <= MAX_TIME_MS
        and status in CHANNEL_MESSAGES
        and 0 <= data1 <= MAX_DATA
        and 0 <= data2 <= MAX_DATA
    )


def take_from_events(events: Sequence[RawEvent], *, latency_ms: float = 0.0, has_touch: bool = True) -> Take:
    """Read a take from raw events, taking the set-up's constant latency off.

    Wheels are read as one player's, whatever the channel. Events that repeat a wheel's position are left out.
    """
    gatherer = NoteGatherer.fresh()
    pedal: list[tuple[float, int]] = []
    bend: list[WheelMove] = []
    modulation: list[WheelMove] = []
    second = 0.0
    has_end = False
    for time_ms, status, data1, data2 in sorted(events, key=lambda event: event[0]):
        second = (time_ms - latency_ms) / 1000.0
        channel, message = status & 0x0F, status & 0xF0
        if message == STATUS_NOTE_ON:
            gatherer.note_on(second, channel=channel, pitch=data1, velocity=data2)
        elif message == STATUS_NOTE_OFF:
            gatherer.note_off(second, channel=channel, pitch=data1)
        elif message == STATUS_CONTROL and data1 == ALL_NOTES_OFF:
            gatherer.all_notes_off(second, channel=channel)
            has_end = True
        elif message == STATUS_CONTROL and data1 == SUSTAIN_PEDAL:
            pedal.append((second, data2))
        elif message == STATUS_CONTROL and data1 == MODULATION_WHEEL:
            _move_wheel(modulation, second, data2 / MAX_CONTROL)
        elif message == STATUS_BEND:
            _move_wheel(bend, second, bend_position(data1, data2))
    held_least_s = 0.0 if has_end else MIN_HELD_S
    return Take.of(
        (
            TakeNote(
                onset_s=n.onset,
                length_s=max(n.end - n.onset, held_least_s if n.is_open else 0.0),
                pitch=n.pitch,
                velocity=n.velocity,
                is_held=n.is_open,
            )
            for n in gatherer.finish(second)
        ),
        pedal=(PedalSpan(start_s=a, end_s=b) for a, b in pedal_spans(pedal, end=second)),
        bend=bend,
        modulation=modulation,
        has_touch=has_touch,
        latency_ms=latency_ms,
    )


def bend_position(low: int, high: int) -> float:
    """Return where a pitch bend message puts its wheel, −1 to 1, from its two data bytes."""
    steps = (high << 7 | low) - BEND_LOWEST
    return steps / (BEND_LOWEST if steps < 0 else BEND_LOWEST - 1)


def bend_bytes(position: float) -> tuple[int, int]:
    """Return the data bytes of the pitch bend message for a position, −1 to 1."""
    steps = round(position * (BEND_LOWEST if position < 0 else BEND_LOWEST - 1)) + BEND_LOWEST
    return steps & 0x7F, steps >> 7


def _move_wheel(moves: list[WheelMove], second: float, position: float) -> None:
    if position != (moves[-1].position if moves else 0.0):
        moves.append(WheelMove(time_s=second, position=position))


def end_held_keys(events: Iterable[RawEvent]) -> list[RawEvent]:
    """Return the events with a note-off for every key that has none, at the end of the recording, and without the
    message that says so: a file needs no other to be played right."""
    ended: list[RawEvent] = []
    down: dict[tuple[int, int], float] = {}
    last_ms = 0.0
    for event in sorted(events, key=lambda event: event[0]):
        last_ms, status, data1, data2 = event
        channel, message = status & 0x0F, status & 0xF0
        if message == STATUS_CONTROL and data1 == ALL_NOTES_OFF:
            held = [key for key in down if key[0] == channel]
            ended += [
                (last_ms, STATUS_NOTE_OFF | channel, pitch, RELEASE_VELOCITY) for _channel, pitch in held
            ]
            for key in held:
                del down[key]
            continue
        if message == STATUS_NOTE_ON and data2 > 0:
            down[channel, data1] = last_ms
        elif message in (STATUS_NOTE_ON, STATUS_NOTE_OFF):
            down.pop((channel, data1), None)
        ended.append(event)
    return ended + [
        (max(last_ms, onset_ms + 1000.0 * MIN_HELD_S), STATUS_NOTE_OFF | channel, pitch, RELEASE_VELOCITY)
        for (channel, pitch), onset_ms in down.items()
    ]


def events_from_take(take: Take) -> list[RawEvent]:
    """Return a take as raw events on channel 1, in order of time, as the robot player sends them.

    Times are in ms.
    """
    events: list[RawEvent] = []
    for note in take.notes:
        events.append((note.onset_s * 1000.0, STATUS_NOTE_ON, note.pitch, note.velocity))
        events.append(
            ((note.onset_s + note.length_s) * 1000.0, STATUS_NOTE_OFF, note.pitch, RELEASE_VELOCITY)
        )
    for span in take.pedal:
        events.append((span.start_s * 1000.0, STATUS_CONTROL, SUSTAIN_PEDAL, 127))
        events.append((span.end_s * 1000.0, STATUS_CONTROL, SUSTAIN_PEDAL, 0))
    for move in take.modulation:
        value = round(move.position * MAX_CONTROL)
        events.append((move.time_s * 1000.0, STATUS_CONTROL, MODULATION_WHEEL, value))
    for move in take.bend:
        events.append((move.time_s * 1000.0, STATUS_BEND, *bend_bytes(move.position)))
    return sorted(events, key=lambda e: (e[0], e[1] == STATUS_NOTE_ON, e[2]))
