"""Standard MIDI Files, in.

Reading keeps to the MIDI Manufacturers Association's "Standard MIDI Files 1.0" (RP-001)
through the library mido; what mido does not say (where a file breaks, SMPTE division, how much of a
file there may be) is found here.
"""

import io
import struct
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field

from ear.errors import FormatError, ValueOutOfRange
from ear.formats import limits
from ear.formats.account import ImportLosses, Lost, NotImported
from ear.formats.characters import without_control_characters
from ear.formats.limits import Counted
from ear.formats.quick_mido import mido
from ear.formats.sounding import SUSTAIN_PEDAL, NoteGatherer, Sounded, pedal_spans
from ear.notes import DRUM_CHANNEL, Meter, MeterChange, MeterMap
from ear.notes.spelling import key_of
from ear.text import term
from ear.units import MAX_BPM, MIN_BPM, TICKS_PER_QUARTER

ENDLESS_QUARTERS = 4
"""A stroke that no message ends lasts a whole note at most: programs forget such ends."""
DEFAULT_BPM = 120.0
"""What a file without a tempo means (RP-001)."""
KEY_NAMES = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#")
MINOR_KEY_NAMES = (
    "Abm", "Ebm", "Bbm", "Fm", "Cm", "Gm", "Dm", "Am", "Em", "Bm", "F#m", "C#m", "G#m", "D#m", "A#m",
)  # fmt: skip
KEPT = frozenset(
    {"end_of_track", "channel_prefix", "midi_port", "copyright", "text", "instrument_name", "sequence_number"}
)
"""Messages without which nothing is lost."""
LOST = {
    "pitchwheel": Lost.BENDS, "control_change": Lost.CONTROLLERS, "program_change": Lost.SOUNDS, "sysex": Lost.DEVICE,
    "aftertouch": Lost.AFTERTOUCH, "polytouch": Lost.AFTERTOUCH, "cue_marker": Lost.CUE_POINTS,
    "sequencer_specific": Lost.PROGRAM, "unknown_meta": Lost.PROGRAM,
}  # fmt: skip

Voice = tuple[int, int]
"""A track and a channel, both from 0: what a file keeps apart."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Contents:
    """What a file holds, times in its own ticks."""

    ticks_per_quarter: int
    notes: tuple[Sounded, ...]
    track_names: tuple[str, ...]
    tempos: tuple[tuple[int, float], ...]
    meters: MeterMap
    """By bars, in ticks of ours."""
    fifths: int
    pedal: Mapping[int, tuple[tuple[float, float], ...]]
    """By channel."""
    programs: Mapping[Voice, int]
    """The first sound asked for, 0 to 127."""
    keys: tuple[tuple[int, int], ...]
    """Key signatures after the first."""
    markers: tuple[tuple[int, str], ...]
    words: Mapping[tuple[int, int], str]
    """Lyrics, by track and tick."""
    end: int
    not_imported: tuple[NotImported, ...]

    @property
    def scale(self) -> float:
        """Ticks of ours to one of the file's."""
        return TICKS_PER_QUARTER / self.ticks_per_quarter


def read_contents(data: bytes) -> Contents:
    """Read a file of type 0 or 1. Raises FormatError, saying what and where."""
    file = open_midi(data)
    return _Gathering(ticks_per_quarter=file.ticks_per_beat).contents(file.tracks)


def open_midi(data: bytes) -> mido.MidiFile:
    """Return the messages of a file of type 0 or 1. Raises FormatError, which says what is wrong and where."""
    source = _check_header(data)
    try:
        return _opened(source)
    except FormatError:
        raise
    except (EOFError, OSError, ValueError, IndexError, KeyError, TypeError) as problem:
        offset = source.tell()
        cause = "the end of the file" if offset >= len(data) else (str(problem) or "broken data")
        raise FormatError(expected=term("MIDI messages"), actual=cause, offset=offset) from problem
    except Exception as problem:  # mido raises its own classes from deep inside meta messages
        raise FormatError(
            expected=term("MIDI messages"), actual=str(problem), offset=source.tell()
        ) from problem


def _opened(source: "_Metered") -> mido.MidiFile:
    """Texts as UTF-8 where they are that, as Latin-1 where they are not: the format does not say."""
    try:
        return mido.MidiFile(file=source, clip=True, charset="utf-8")
    except UnicodeDecodeError:
        source.seek(0)
        return mido.MidiFile(file=source, clip=True, charset="latin-1")


class _Metered(io.BytesIO):
    """A file that is read in so many steps at most: mido takes it byte by byte, and knows no end itself."""

    def __init__(self, data: bytes) -> None:
        super().__init__(data)
        self.steps = Counted(limits.MIDI_STEPS, "bytes of messages")
        self.high = Counted(limits.HIGH_BYTES, "bytes for one number")

    def read(self, size: int | None = -1) -> bytes:
        self.steps.add()
        content = super().read(size)
        if content >= b"\x80":
            self.high.add()
        else:
            self.high.count = 0
        return content


def _check_header(data: bytes) -> _Metered:
    if not data:
        raise FormatError(expected=term("a Standard MIDI File"), actual="an empty file", offset=0)
    if len(data) > limits.FILE_BYTES:
        raise limits.too_much("bytes", limits.FILE_BYTES)
    if data[:4] != b"MThd":
        start = data[:4].decode("ascii", "replace")
        raise FormatError(expected=term("a Standard MIDI File (MThd)"), actual=repr(start), offset=0)
    if len(data) < 14:
        raise FormatError(
            expected=term("a header of 14 bytes"), actual="the end of the file", offset=len(data)
        )
    size, kind, tracks, division = struct.unpack(">LHHH", data[4:14])
    if size < 6:
        raise FormatError(expected=term("a complete header"), actual=f"{size}", offset=4)
    if kind > 1:
        raise FormatError(expected=term("a file of type 0 or 1"), actual=f"type {kind}", offset=8)
    if tracks == 0:
        raise FormatError(expected=term("at least one track"), actual="none", offset=10)
    if tracks > limits.TRACKS:
        raise limits.too_much("tracks", limits.TRACKS)
    if division & 0x8000:
        raise FormatError(
            expected=term("time counted in ticks to a quarter note"), actual="SMPTE frames", offset=12
        )
    if division == 0:
        raise FormatError(expected=term("ticks to a quarter note"), actual="0", offset=12)
    return _Metered(data)


@dataclass(slots=True, kw_only=True)
class _Gathering:
    """A file's messages, put where they belong; times in the file's ticks."""

    ticks_per_quarter: int
    notes: list[Sounded] = field(default_factory=list)
    tempos: dict[int, float] = field(default_factory=dict)
    meters: dict[int, Meter] = field(default_factory=dict)
    keys: dict[int, int] = field(default_factory=dict)
    pedal: dict[int, list[tuple[float, int]]] = field(default_factory=dict)
    programs: dict[Voice, int] = field(default_factory=dict)
    names: list[str] = field(default_factory=list)
    markers: dict[int, str] = field(default_factory=dict)
    words: dict[tuple[int, int], str] = field(default_factory=dict)
    lost: list[tuple[Lost, int]] = field(default_factory=list)
    end: int = 0
    counts: Mapping[str, Counted] = field(
        default_factory=lambda: {
            "notes": Counted(limits.NOTES, "notes"), "tempos": Counted(limits.TEMPOS, "changes of tempo"),
            "meters": Counted(limits.METERS, "changes of meter"),
            "marks": Counted(limits.MARKS, "texts, keys and pedal strokes"),
        }
    )  # fmt: skip

    def contents(self, tracks: list[mido.MidiTrack]) -> Contents:
        for index, track in enumerate(tracks):
            self._track(index, track)
        self.notes.sort(key=lambda n: (n.onset, n.pitch))
        tempos, meters = tuple(sorted(self.tempos.items())), self._meter_map()
        fifths = next((key for _, key in sorted(self.keys.items())), None)
        return Contents(
            ticks_per_quarter=self.ticks_per_quarter,
            notes=tuple(self.notes),
            track_names=tuple(self.names),
            tempos=tempos,
            meters=meters,
            # A file that says no key: the one that its notes make likeliest.
            fifths=key_of([n.pitch for n in self.notes if n.channel != DRUM_CHANNEL]) if fifths is None else fifths,
            pedal={c: tuple(pedal_spans(sorted(moves, key=lambda m: m[0]), end=self.end))
                   for c, moves in self.pedal.items()},
            programs=self.programs,
            keys=tuple(sorted(self.keys.items()))[1:],
            markers=tuple(sorted(self.markers.items())),
            words=self.words,
            end=self.end,
            not_imported=self._account(meters),
        )  # fmt: skip

    def _track(self, index: int, track: mido.MidiTrack) -> None:
        gatherer = NoteGatherer.fresh(track=index)
        self.names.append("")
        tick = 0
        longest = self.ticks_per_quarter * limits.BARS * limits.BAR_QUARTERS
        for message in track:
            tick += message.time
            if tick > longest:
                # What stands an age behind the music says nothing of it; a note there is too much music.
                if message.type == "note_on" and message.velocity:
                    raise limits.too_much("bars", limits.BARS)
                continue
            match message.type:
                case "note_on":
                    if message.velocity:
                        self.counts["notes"].add()
                    gatherer.note_on(
                        tick, channel=message.channel, pitch=message.note, velocity=message.velocity
                    )
                case "note_off":
                    gatherer.note_off(tick, channel=message.channel, pitch=message.note)
                case _:
                    self._other(index, tick, message)
        self.notes += gatherer.finish(tick, endless=self.ticks_per_quarter * ENDLESS_QUARTERS)
        self.end = max(self.end, min(tick, longest))

    def _other(self, track: int, tick: int, message: mido.Message | mido.MetaMessage) -> None:
        match message.type:
            case "control_change" if message.control == SUSTAIN_PEDAL:
                self.counts["marks"].add()
                self.pedal.setdefault(message.channel, []).append((tick, message.value))
            case "program_change":
                self.programs.setdefault((track, message.channel), message.program)
                self.lost.append((Lost.SOUNDS, tick))
            case "set_tempo":
                self.counts["tempos"].add(tick not in self.tempos)
                self.tempos[tick] = _bpm(message.tempo, track=track)
            case "time_signature":
                self.counts["meters"].add(tick not in self.meters)
                self.meters[tick] = _meter(message, track=track)
            case "key_signature":
                self.counts["marks"].add()
                self.keys[tick] = _fifths(message.key)
            case "marker":
                self.counts["marks"].add()
                self.markers.setdefault(tick, _clean(message.text))
            case "lyrics" if _clean(message.text):
                self.counts["marks"].add()
                self.words[track, tick] = _clean(message.text)
            case "track_name":
                self.names[-1] = self.names[-1] or _clean(message.name)
            case other if other not in KEPT:
                self.lost.append((LOST.get(other, Lost.OTHER), tick))

    def _ours(self, tick: float) -> float:
        return tick * TICKS_PER_QUARTER / self.ticks_per_quarter

    def _meter_map(self) -> MeterMap:
        """Meters at ticks as meters at bars; a change inside a bar takes effect at that bar."""
        changes = [MeterChange(bar=1, meter=Meter(numerator=4, denominator=4))]
        start = 0
        for tick, meter in sorted(self.meters.items(), key=lambda item: item[0]):
            ours = round(self._ours(tick))
            last = changes[-1]
            bars = max(0, ours - start) // last.meter.bar_ticks
            if not bars:
                changes[-1] = MeterChange(bar=last.bar, meter=meter)
            else:
                start += bars * last.meter.bar_ticks
                changes.append(MeterChange(bar=last.bar + bars, meter=meter))
        meter_map = MeterMap(changes)
        last_onset = max((n.onset for n in self.notes), default=0)
        if meter_map.bar_at(self._ours(last_onset)).number > limits.BARS:
            raise limits.too_much("bars", limits.BARS)
        return meter_map

    def _account(self, meters: MeterMap) -> tuple[NotImported, ...]:
        account = ImportLosses()
        if not self.tempos:
            account.lose(Lost.NO_TEMPO)
        if not self.meters:
            account.lose(Lost.NO_METER)
        for feature, tick in self.lost:
            account.lose(feature, meters.bar_at(self._ours(tick)).number)
        return account.rows()


def _clean(text: str) -> str:
    """A text of the file as it can be shown. The standard leaves the encoding open: UTF-8 where it is that, else Latin-1."""
    with suppress(UnicodeError):
        text = text.encode("latin-1").decode("utf-8")
    return without_control_characters(text).strip()


def _bpm(microseconds: int, *, track: int) -> float:
    bpm = 60e6 / microseconds if microseconds else float("inf")
    if not MIN_BPM <= bpm <= MAX_BPM:
        raise FormatError(expected=f"a tempo of {MIN_BPM:g} to {MAX_BPM:g}", actual=f"{bpm:.4g}", track=track)
    return round(bpm, 3)


def _meter(message: mido.MetaMessage, *, track: int) -> Meter:
    try:
        return Meter(numerator=message.numerator, denominator=message.denominator)
    except ValueOutOfRange as problem:
        signature = f"{message.numerator}/{message.denominator}"
        raise FormatError(
            expected=term("a time signature over 2, 4, 8 or 16"), actual=signature, track=track
        ) from problem


def _fifths(key: str) -> int:
    names = MINOR_KEY_NAMES if key.endswith("m") else KEY_NAMES
    return names.index(key) - 7
