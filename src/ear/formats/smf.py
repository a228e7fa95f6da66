"""Standard MIDI Files, in.

Reading keeps to the MIDI Manufacturers Association's "Standard MIDI Files 1.0" (RP-001)
through the library mido; what mido does not say (where a file breaks, SMPTE division) is
found here.
"""

import io
import struct
from collections import Counter
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace

from ear.errors import FormatError, ValueOutOfRange
from ear.formats.quick_mido import mido
from ear.formats.sounding import SUSTAIN_PEDAL, NoteGatherer, Sounded, pedal_spans
from ear.notes import (
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    PedalMark,
    PedalSpan,
    Section,
    Take,
    TakeNote,
    TempoChange,
    TempoMap,
)  # fmt: skip
from ear.notes.note import LABEL_MOST
from ear.units import BPM_MAX, BPM_MIN, TICKS_PER_QUARTER

BYTES_MAX = 4_000_000
"""Far over any exercise; a guard against wrong files."""
NOTES_MAX = 50_000
BARS_MOST = 400
SECTION_NAME_MOST = 60
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
        fifths=fifths or 0,
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


Voice = tuple[int, int]
"""A track and a channel, both from 0: what a file keeps apart."""


def read_part(data: bytes, *, kind: Kind, voices: Collection[Voice] | None = None) -> Part:
    """Read a target part, of all voices or of some. Its notes number as the file's do, by (onset, pitch)."""
    return part_of(read_contents(data), kind=kind, voices=voices)


def part_of(contents: Contents, *, kind: Kind, voices: Collection[Voice] | None = None) -> Part:
    """A target part from what a file holds."""
    if voices is not None:
        chosen = tuple(n for n in contents.notes if (n.track, n.channel) in voices)
        contents = replace(contents, notes=chosen)
    scale = TICKS_PER_QUARTER / contents.ticks_per_quarter

    def tick(file_tick: float) -> int:
        return round(file_tick * scale)

    tempos = [TempoChange(tick=tick(at), bpm=bpm) for at, bpm in contents.tempos]
    if not tempos or tempos[0].tick != 0:
        tempos.insert(0, TempoChange(tick=0, bpm=DEFAULT_BPM))
    hands = _hands(contents, kind=kind)
    labels = _labels(contents)
    notes = [
        Note(
            onset_tick=tick(n.onset),
            length_tick=max(1, tick(n.end) - tick(n.onset)),
            pitch=n.pitch,
            velocity=n.velocity,
            hand=hands.get((n.track, n.channel)),
            label=labels.get(k),
        )
        for k, n in enumerate(contents.notes)
    ]
    meters = _meter_map([(tick(at), meter) for at, meter in contents.meters])
    return Part.of(
        notes,
        kind=kind,
        meters=meters,
        sections=_sections(contents, meters, kind=kind, scale=scale),
        tempos=TempoMap([c for c, after in zip(tempos, [*tempos[1:], None], strict=True)
                         if after is None or after.tick != c.tick]),
        fifths=contents.fifths,
        pedal=_pedal(contents, tick) if kind.instrument.has_pedal else (),
    ).lasting(_bars_said(meters, tick(contents.end)))  # fmt: skip


def _pedal(contents: Contents, tick: Callable[[float], int]) -> list[PedalMark]:
    """Stretches that last; what is shorter than a tick is none."""
    spans = [(tick(start), tick(end)) for start, end in contents.pedal]
    return [PedalMark(start_tick=start, end_tick=end) for start, end in spans if start < end]


def _labels(contents: Contents) -> dict[int, str]:
    """Words by the note, of `contents.notes`, that they are sung to: of several at once the highest."""
    found: dict[tuple[int, float], int] = {}
    for k, note in enumerate(contents.notes):
        if (note.track, note.onset) in contents.words:
            found[note.track, note.onset] = k
    return {k: contents.words[track, int(onset)][:LABEL_MOST] for (track, onset), k in found.items()}


def _sections(contents: Contents, meters: MeterMap, *, kind: Kind, scale: float) -> list[Section]:
    """Markers are sections' names; another key begins one, too."""
    names = {meters.bar_at(round(at * scale)).number: text for at, text in contents.markers if text}
    keys = {meters.bar_at(round(at * scale)).number: fifths for at, fifths in contents.keys}
    if kind.instrument.has_lanes:
        keys = {}
    found: list[Section] = []
    fifths = contents.fifths
    for bar in sorted({*names, *keys}):
        fifths = keys.get(bar, fifths)
        name = names.get(bar, KEY_NAMES[fifths + 7].replace("#", "♯").replace("b", "♭"))
        found.append(Section(bar=bar, name=name[:SECTION_NAME_MOST], fifths=fifths if keys else None))
    return found


def _bars_said(meters: MeterMap, end: int) -> int:
    """Bars that a file has by its tracks' end, if that is a bar line; else as its notes have it."""
    bar = meters.bar_at(max(0, end - 1))
    return bar.number if bar.end_tick == end and bar.number <= BARS_MOST else 1


def _meter_map(meters: list[tuple[int, Meter]]) -> MeterMap:
    """Meters at ticks as meters at bars; a change inside a bar takes effect at that bar."""
    found = MeterMap.of(4, 4)
    for tick, meter in meters:
        bar = found.bar_at(tick).number
        kept = [c for c in found.changes if c.bar < bar]
        found = MeterMap([*kept, MeterChange(bar=bar, meter=meter)])
    return found


def _hands(contents: Contents, *, kind: Kind) -> dict[Voice, Hand]:
    """Which voice is which hand: by its track's name if that says so, else two by their height."""
    voices = sorted({(n.track, n.channel) for n in contents.notes})
    if kind.instrument.has_lanes:
        return {}
    named: dict[Voice, Hand] = {}
    for voice in voices:
        name = contents.track_names[voice[0]].lower()
        for hand in Hand:
            if hand.value in name:
                named[voice] = hand
    if len(named) == len(voices):
        return named
    if len(voices) != 2:
        return {}

    def height(voice: Voice) -> float:
        pitches = [n.pitch for n in contents.notes if (n.track, n.channel) == voice]
        return sum(pitches) / len(pitches)

    low, high = sorted(voices, key=height)
    return {high: Hand.RIGHT, low: Hand.LEFT}


def read_take(data: bytes, *, part: Part, count_in_bars: int = 0) -> Take:
    """Read a take that was recorded against a part's click.

    The file begins `count_in_bars` bars (first meter, first tempo of the part) before bar 1.
    A file that names no tempo is taken to run at the click's.
    """
    contents = read_contents(data)
    bpm = [TempoChange(tick=at, bpm=bpm) for at, bpm in contents.tempos]
    if not bpm or bpm[0].tick != 0:
        bpm.insert(0, TempoChange(tick=0, bpm=DEFAULT_BPM if bpm else part.tempos.first_bpm))
    tempos = TempoMap(bpm)
    # The map counts 480 ticks to a quarter; the file's own division is put right by a factor.
    scale = TICKS_PER_QUARTER / contents.ticks_per_quarter
    scaled = TempoMap([TempoChange(tick=round(c.tick * scale), bpm=c.bpm) for c in tempos.changes])
    count_in_s = count_in_bars * part.meters.first.bar_quarters * 60.0 / part.tempos.first_bpm

    def second(file_tick: float) -> float:
        return scaled.second_at(file_tick * scale) - count_in_s

    return Take.of(
        (
            TakeNote(
                onset_s=second(n.onset), length_s=second(n.end) - second(n.onset),
                pitch=n.pitch, velocity=n.velocity,
            )
            for n in contents.notes
        ),
        pedal=(PedalSpan(start_s=second(a), end_s=second(b)) for a, b in contents.pedal),
    )  # fmt: skip
