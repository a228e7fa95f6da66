"""Standard MIDI Files, in.

Reading keeps to the MIDI Manufacturers Association's "Standard MIDI Files 1.0" (RP-001)
through the library mido; what mido does not say (where a file breaks, SMPTE division) is
found here.
"""

import io
import struct
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

from ear.errors import FormatError, ValueOutOfRange
from ear.formats.quick_mido import mido
from ear.formats.sounding import SUSTAIN_PEDAL, NoteGatherer, Sounded, pedal_spans
from ear.notes import DRUM_CHANNEL, Meter
from ear.notes.spelling import key_of
from ear.units import BPM_MAX, BPM_MIN

BYTES_MAX = 4_000_000
"""Far over any exercise; a guard against wrong files."""
NOTES_MAX = 50_000
DEFAULT_BPM = 120.0
"""What a file without a tempo means (RP-001)."""
"""Channel 10, counted from 0."""
KEY_NAMES = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#")
MINOR_KEY_NAMES = (
    "Abm",
    "Ebm",
    "Bbm",
    "Fm",
    "Cm",
    "Gm",
    "Dm",
    "Am",
    "Em",
    "Bm",
    "F#m",
    "C#m",
    "G#m",
    "D#m",
    "A#m",
)


Voice = tuple[int, int]
"""A track and a channel, both from 0: what a file keeps apart."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Contents:
    """What a file holds, times in its own ticks."""

    ticks_per_quarter: int
    notes: tuple[Sounded, ...]
    track_names: tuple[str, ...]
    tempos: tuple[tuple[int, float], ...]
    meters: tuple[tuple[int, Meter], ...]
    fifths: int
    pedal: tuple[tuple[float, float], ...]
    keys: tuple[tuple[int, int], ...]
    """Key signatures after the first."""
    markers: tuple[tuple[int, str], ...]
    words: Mapping[tuple[int, int], str]
    """Lyrics, by track and tick."""
    end: int
    others: Mapping[str, int]
    """Messages of other kinds, counted by kind: what a part does not keep."""


def read_contents(data: bytes) -> Contents:
    """Read a file of type 0 or 1. Raises FormatError, saying what and where."""
    return _gather(open_midi(data))


def open_midi(data: bytes) -> mido.MidiFile:
    """The messages of a file of type 0 or 1. Raises FormatError, saying what and where."""
    source = _check_header(data)
    try:
        return _opened(source)
    except (EOFError, OSError, ValueError, IndexError, KeyError, TypeError) as problem:
        offset = source.tell()
        found = "the end of the file" if offset >= len(data) else (str(problem) or "broken data")
        raise FormatError(expected="MIDI messages", found=found, offset=offset) from problem
    except Exception as problem:  # mido raises its own classes from deep inside meta messages
        raise FormatError(expected="MIDI messages", found=str(problem), offset=source.tell()) from problem


def _opened(source: io.BytesIO) -> mido.MidiFile:
    """Texts as UTF-8 where they are that, as Latin-1 where they are not: the format does not say."""
    try:
        return mido.MidiFile(file=source, clip=True, charset="utf-8")
    except UnicodeDecodeError:
        source.seek(0)
        return mido.MidiFile(file=source, clip=True, charset="latin-1")


def _check_header(data: bytes) -> io.BytesIO:
    if not data:
        raise FormatError(expected="a Standard MIDI File", found="an empty file", offset=0)
    if len(data) > BYTES_MAX:
        raise FormatError(expected=f"at most {BYTES_MAX:,} bytes", found=f"{len(data):,}")
    if data[:4] != b"MThd":
        start = data[:4].decode("ascii", "replace")
        raise FormatError(expected="a Standard MIDI File (MThd)", found=repr(start), offset=0)
    if len(data) < 14:
        raise FormatError(expected="a header of 14 bytes", found="the end of the file", offset=len(data))
    size, kind, tracks, division = struct.unpack(">LHHH", data[4:14])
    if size < 6:
        raise FormatError(expected="a header of 6 bytes or more", found=f"{size}", offset=4)
    if kind > 1:
        raise FormatError(expected="a file of type 0 or 1", found=f"type {kind}", offset=8)
    if tracks == 0:
        raise FormatError(expected="at least one track", found="none", offset=10)
    if division & 0x8000:
        raise FormatError(expected="time counted in ticks to a quarter note", found="SMPTE frames", offset=12)
    if division == 0:
        raise FormatError(expected="ticks to a quarter note", found="0", offset=12)
    return io.BytesIO(data)


def _gather(file: mido.MidiFile) -> Contents:
    notes: list[Sounded] = []
    tempos: dict[int, float] = {}
    meters: dict[int, Meter] = {}
    pedal: list[tuple[float, int]] = []
    fifths: int | None = None
    names: list[str] = []
    others: Counter[str] = Counter()
    keys: dict[int, int] = {}
    markers: dict[int, str] = {}
    words: dict[tuple[int, int], str] = {}
    end = 0
    for index, track in enumerate(file.tracks):
        gatherer = NoteGatherer.fresh(track=index)
        names.append("")
        tick = 0
        for message in track:
            tick += message.time
            match message.type:
                case "note_on":
                    gatherer.note_on(
                        tick, channel=message.channel, pitch=message.note, velocity=message.velocity
                    )
                case "note_off":
                    gatherer.note_off(tick, channel=message.channel, pitch=message.note)
                case "control_change" if message.control == SUSTAIN_PEDAL:
                    pedal.append((tick, message.value))
                case "set_tempo":
                    tempos[tick] = _bpm(message.tempo, track=index)
                case "time_signature":
                    meters[tick] = _meter(message, track=index)
                case "key_signature" if fifths is None:
                    fifths = _fifths(message.key)
                case "key_signature":
                    keys[tick] = _fifths(message.key)
                case "marker":
                    markers.setdefault(tick, message.text.strip())
                case "lyrics" if message.text.strip():
                    words[index, tick] = message.text.strip()
                case "track_name":
                    names[-1] = message.name
                case "control_change":
                    others["control_change"] += 1
                case other:
                    others[other] += 1
        notes += gatherer.finish(tick)
        end = max(end, tick)
    if len(notes) > NOTES_MAX:
        raise FormatError(expected=f"at most {NOTES_MAX:,} notes", found=f"{len(notes):,}")
    notes.sort(key=lambda n: (n.onset, n.pitch))
    pedal.sort(key=lambda change: change[0])
    return Contents(
        ticks_per_quarter=file.ticks_per_beat,
        notes=tuple(notes),
        track_names=tuple(names),
        tempos=tuple(sorted(tempos.items())),
        meters=tuple(sorted(meters.items(), key=lambda item: item[0])),
        # A file that says no key: the one that its notes make likeliest.
        fifths=key_of([n.pitch for n in notes if n.channel != DRUM_CHANNEL]) if fifths is None else fifths,
        pedal=tuple(pedal_spans(pedal, end=end)),
        keys=tuple(sorted(keys.items())),
        markers=tuple(sorted(markers.items())),
        words=words,
        end=end,
        others=others,
    )


def _bpm(microseconds: int, *, track: int) -> float:
    bpm = 60e6 / microseconds if microseconds else float("inf")
    if not BPM_MIN <= bpm <= BPM_MAX:
        raise FormatError(expected=f"a tempo of {BPM_MIN:g} to {BPM_MAX:g}", found=f"{bpm:.4g}", track=track)
    return round(bpm, 3)


def _meter(message: mido.MetaMessage, *, track: int) -> Meter:
    try:
        return Meter(numerator=message.numerator, denominator=message.denominator)
    except ValueOutOfRange as problem:
        found = f"{message.numerator}/{message.denominator}"
        raise FormatError(expected="a meter over 2, 4, 8 or 16", found=found, track=track) from problem


def _fifths(key: str) -> int:
    names = MINOR_KEY_NAMES if key.endswith("m") else KEY_NAMES
    return names.index(key) - 7
