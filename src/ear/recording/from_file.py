"""A take that was recorded elsewhere, from its Standard MIDI File: raw events against the downbeat."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from ear.errors import ValueOutOfRange
from ear.formats.events import MAX_EVENTS, MAX_TIME_MS, STATUS_NOTE_ON, RawEvent
from ear.formats.quick_mido import mido
from ear.formats.smf import DEFAULT_BPM, Voice, open_midi
from ear.notes import STANDARD_KIT, Kind, Meter, Part, TempoChange, TempoMap, kind_on_channel
from ear.plain import from_plain, to_plain
from ear.units import MAX_BPM, MIN_BPM, TICKS_PER_QUARTER

RECORDINGS = "ear.recording.from_file"
"""For `ear.formats.sandboxed_reader`: reads takes that were recorded elsewhere."""
MAX_COUNT_IN = 8
NEAR_QUARTERS = 0.25
"""A note so near to a written one of its pitch speaks for a count-in."""
KEPT = frozenset({"note_on", "note_off", "control_change", "pitchwheel", "aftertouch", "polytouch"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Track:
    """A channel of a track that has notes."""

    voice: Voice
    name: str
    notes: int
    kind: Kind

    @property
    def key(self) -> str:
        """By which a form names it."""
        return f"{self.voice[0]}-{self.voice[1]}"


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordedFile:
    """A file as it was recorded; nothing is chosen yet. `bpm` is None where the file names none."""

    tracks: tuple[Track, ...]
    bpm: float | None
    meter: Meter | None
    messages: tuple[tuple[float, Voice, tuple[int, int, int]], ...]
    """Quarter of the file, voice, bytes; in order."""
    tempo_changes: tuple[TempoChange, ...]
    """From the file's start."""

    def _chosen(self, voices: Collection[Voice]) -> list[tuple[float, tuple[int, int, int]]]:
        chosen = [(at, data) for at, voice, data in self.messages if not voices or voice in voices]
        if not any(data[0] & 0xF0 == STATUS_NOTE_ON and data[2] for _, data in chosen):
            raise ValueOutOfRange("no_notes_chosen")
        return chosen

    def count_in(self, part: Part, voices: Collection[Voice] = ()) -> int:
        """Return the number of bars before bar 1, by where the take's notes fit the part's best.

        Counted in the file's own beats, so that its tempo does not matter. Where several are as good, that
        which puts the first note nearest to the part's first.
        """
        fold = STANDARD_KIT.fold if part.instrument.has_lanes else int
        written: dict[int, list[float]] = {}
        for note in part.notes:
            written.setdefault(fold(note.pitch), []).append(note.onset_tick / TICKS_PER_QUARTER)
        played = [
            (at, fold(data[1]))
            for at, data in self._chosen(voices)
            if data[0] & 0xF0 == STATUS_NOTE_ON and data[2]
        ]
        bar = self._bar_quarters(part)
        first = min(min(quarters) for quarters in written.values()) if written else 0.0

        def speaks(bars: int) -> tuple[int, float]:
            near = sum(
                any(abs(at - bars * bar - quarter) <= NEAR_QUARTERS for quarter in written.get(pitch, ()))
                for at, pitch in played
            )
            return near, -abs(played[0][0] - bars * bar - first)

        return max(range(MAX_COUNT_IN + 1), key=speaks)

    def events(self, part: Part, *, count_in_bars: int, voices: Collection[Voice] = ()) -> list[RawEvent]:
        """Return raw events in ms from bar 1.

        Raises ValueOutOfRange if there are none, too many, or if they are too long.
        """
        tempos = TempoMap(self.tempo_changes)
        start = tempos.second_at(count_in_bars * self._bar_quarters(part) * TICKS_PER_QUARTER)
        raw_events = [
            (1000.0 * (tempos.second_at(at * TICKS_PER_QUARTER) - start), data[0] & 0xF0, data[1], data[2])
            for at, data in self._chosen(voices)
        ]
        if len(raw_events) > MAX_EVENTS or abs(raw_events[-1][0]) > MAX_TIME_MS:
            raise ValueOutOfRange("file_too_long_for_take")
        return raw_events

    def _bar_quarters(self, part: Part) -> float:
        return (self.meter or part.meters.first).bar_quarters


def read_to_plain(data: bytes) -> dict[str, object]:
    """Open a recording and return what is in it as plain values.

    The sandboxed process calls this. Raises FormatError.
    """
    plain: dict[str, object] = to_plain(open_recording(data))
    return plain


def recording_from_plain(plain: Any) -> RecordedFile:
    """Return the recording that `read_to_plain` read. Raises FormatError."""
    return from_plain(plain, RecordedFile, expected="a recording")


def open_recording(data: bytes) -> RecordedFile:
    """Open a Standard MIDI File. Raises FormatError."""
    file = open_midi(data)
    messages: list[tuple[float, Voice, tuple[int, int, int]]] = []
    tempos: dict[int, float] = {}
    meter: Meter | None = None
    names: dict[int, str] = {}
    notes: dict[Voice, int] = {}
    for index, track in enumerate(file.tracks):
        tick = 0
        for message in track:
            tick += message.time
            quarter = tick / file.ticks_per_beat
            if message.type == "set_tempo" and message.tempo:
                bpm = min(MAX_BPM, max(MIN_BPM, 60e6 / message.tempo))
                tempos[round(quarter * TICKS_PER_QUARTER)] = bpm
            elif message.type == "time_signature" and meter is None:
                meter = _meter(message)
            elif message.type == "track_name":
                names.setdefault(index, message.name.strip())
            elif message.type in KEPT:
                voice = (index, message.channel)
                data3 = (*message.bytes(), 0)[:3]
                messages.append((quarter, voice, (data3[0], data3[1], data3[2])))
                if message.type == "note_on" and message.velocity:
                    notes[voice] = notes.get(voice, 0) + 1
    changes = [TempoChange(tick=tick, bpm=bpm) for tick, bpm in sorted(tempos.items())]
    first = changes[0].bpm if changes else None
    if not changes or changes[0].tick:
        changes.insert(0, TempoChange(tick=0, bpm=DEFAULT_BPM))
    return RecordedFile(
        tracks=tuple(
            Track(
                voice=voice, notes=count, kind=kind_on_channel(voice[1]),
                name=f"{names.get(voice[0]) or f'track {voice[0] + 1}'}, channel {voice[1] + 1}",
            )
            for voice, count in sorted(notes.items())
        ),
        bpm=first,
        meter=meter,
        messages=tuple(sorted(messages, key=lambda m: m[0])),
        tempo_changes=tuple(changes),
    )  # fmt: skip


def _meter(message: mido.MetaMessage) -> Meter | None:
    try:
        return Meter(numerator=message.numerator, denominator=message.denominator)
    except ValueOutOfRange:
        return None
