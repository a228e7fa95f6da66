"""What a Standard MIDI File holds, as a part or as a take."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np

from ear.formats import limits
from ear.formats.multi_part_import import check_fits, together
from ear.formats.smf import DEFAULT_BPM, KEY_NAMES, Contents, Voice, read_contents
from ear.notes import (
    Kind,
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
    kind_on_channel,
)  # fmt: skip
from ear.notes.note import MAX_LABEL_LENGTH

DRUM_NAMES = re.compile(
    r"\b(drums?|drum ?kit|percussion|schlagzeug|batterie|batería|batteria)\b", re.IGNORECASE
)
MAX_SECTION_NAME_LENGTH = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class VoicePart:
    """What one channel of one track plays, as a part of its own that says nothing of hands."""

    voice: Voice
    name: str
    """The track's; empty where it has none."""
    program: int | None
    part: Part


def read_part(data: bytes, *, kind: Kind) -> Part:
    """Read a target part of all that is in a file. Its notes number as the file's do, by (onset, pitch), a key that is
    struck twice at one moment counted once. Raises FormatError, for what is longer than a part, too."""
    contents = read_contents(data)
    voices = voice_parts(contents, kind=kind)
    if not voices:
        return _Frame(contents).part((), kind=kind)
    return check_fits(together([(each.name, each.part) for each in voices], kind).part)


def voice_parts(contents: Contents, *, kind: Kind | None = None) -> list[VoicePart]:
    """Return everything that plays in a file, by track and channel, as parts of one kind or each of its own."""
    frame = _Frame(contents)
    by_voice: dict[Voice, list[int]] = {}
    for k, note in enumerate(contents.notes):
        by_voice.setdefault((note.track, note.channel), []).append(k)
    return [
        VoicePart(
            voice=voice,
            name=contents.track_names[voice[0]],
            program=contents.programs.get(voice),
            part=frame.part(
                inside, kind=kind or kind_of(contents.track_names[voice[0]], voice[1]), channel=voice[1]
            ),
        )
        for voice, inside in sorted(by_voice.items())
    ]


def kind_of(name: str, channel: int) -> Kind:
    """Return the kind of a track, by its name if that names drums, else by its channel."""
    return Kind.DRUMS if DRUM_NAMES.search(name) else kind_on_channel(channel)


class _Frame:
    """What all parts of a file share, made once."""

    def __init__(self, contents: Contents) -> None:
        self.contents = contents
        tempos = {self.tick(at): bpm for at, bpm in contents.tempos}
        tempos.setdefault(0, DEFAULT_BPM)
        self.tempos = TempoMap([TempoChange(tick=at, bpm=bpm) for at, bpm in sorted(tempos.items())])
        self.labels = _labels(contents)
        self.bars = _count_bars(contents.meters, self.tick(contents.end))
        self.sections = {kind: _sections(contents, kind=kind) for kind in Kind}
        self.pedal = {channel: self._pedal(spans) for channel, spans in contents.pedal.items()}

    def tick(self, file_tick: float) -> int:
        """In ticks of ours."""
        return round(file_tick * self.contents.scale)

    def part(self, inside: Sequence[int], *, kind: Kind, channel: int | None = None) -> Part:
        """A part of some of the file's notes."""

        def made(k: int) -> Note:
            note = self.contents.notes[k]
            onset = self.tick(note.onset)
            return Note(
                onset_tick=onset, length_tick=max(1, self.tick(note.end) - onset), pitch=note.pitch,
                velocity=note.velocity, label=self.labels.get(k),
            )  # fmt: skip

        return Part.of(
            (made(k) for k in inside),
            kind=kind,
            meters=self.contents.meters,
            sections=self.sections[kind],
            tempos=self.tempos,
            fifths=self.contents.fifths,
            pedal=self.pedal.get(channel, ()) if kind.instrument.has_pedal and channel is not None else (),
        ).lasting(self.bars)

    def _pedal(self, spans: Iterable[tuple[float, float]]) -> list[PedalMark]:
        """Stretches that last; what is shorter than a tick is none."""
        spans_ticks = [(self.tick(start), self.tick(end)) for start, end in spans]
        return [PedalMark(start_tick=start, end_tick=end) for start, end in spans_ticks if start < end]


def _labels(contents: Contents) -> dict[int, str]:
    """Words by the note, of `contents.notes`, that they are sung to: of several at once the highest."""
    labels: dict[tuple[int, float], int] = {}
    for k, note in enumerate(contents.notes):
        if (note.track, note.onset) in contents.words:
            labels[note.track, note.onset] = k
    return {k: contents.words[track, int(onset)][:MAX_LABEL_LENGTH] for (track, onset), k in labels.items()}


def _sections(contents: Contents, *, kind: Kind) -> list[Section]:
    """Markers are sections' names; another key begins one, too."""

    def bar(at: int) -> int:
        return contents.meters.bar_at(round(at * contents.scale)).number

    names = {bar(at): text for at, text in contents.markers if text}
    keys = {bar(at): fifths for at, fifths in contents.keys} if kind.instrument.has_key else {}
    sections: list[Section] = []
    fifths = contents.fifths
    for number in sorted({*names, *keys}):
        fifths = keys.get(number, fifths)
        name = names.get(number, KEY_NAMES[fifths + 7].replace("#", "♯").replace("b", "♭"))
        sections.append(
            Section(bar=number, name=name[:MAX_SECTION_NAME_LENGTH], fifths=fifths if keys else None)
        )
    return sections


def _count_bars(meters: MeterMap, end: int) -> int:
    """Bars that a file has by its tracks' end, if that is a bar line; else as its notes have it."""
    bar = meters.bar_at(max(0, end - 1))
    return bar.number if bar.end_tick == end and bar.number <= limits.BARS else 1


def read_take(data: bytes, *, part: Part, count_in_bars: int = 0) -> Take:
    """Read a take that was recorded against a part's click.

    The file begins `count_in_bars` bars (first meter, first tempo of the part) before bar 1.
    A file that names no tempo is taken to run at the click's.
    """
    contents = read_contents(data)
    bpm = [TempoChange(tick=at, bpm=bpm) for at, bpm in contents.tempos]
    if not bpm or bpm[0].tick != 0:
        bpm.insert(0, TempoChange(tick=0, bpm=DEFAULT_BPM if bpm else part.tempos.first_bpm))
    # The map counts 480 ticks to a quarter; the file's own division is put right by a factor.
    scale = contents.scale
    tempos = TempoMap(
        [TempoChange(tick=at, bpm=now) for at, now in {round(c.tick * scale): c.bpm for c in bpm}.items()]
    )
    count_in_s = count_in_bars * part.meters.first.bar_quarters * 60.0 / part.tempos.first_bpm

    def seconds(file_ticks: Iterable[float]) -> list[float]:
        moments_s = tempos.seconds(np.array(list(file_ticks)) / contents.ticks_per_quarter) - count_in_s
        return cast("list[float]", moments_s.tolist())

    # One key is struck once at one moment, in a take as in a part.
    once = list({(n.onset, n.pitch): n for n in sorted(contents.notes, key=lambda n: n.end)}.values())
    if len(once) > limits.TAKE_NOTES:
        raise limits.too_much("notes in a take", limits.TAKE_NOTES)
    onsets, ends = seconds(n.onset for n in once), seconds(n.end for n in once)
    spans = _first_pedal(contents)
    down, up = seconds(start for start, _ in spans), seconds(end for _, end in spans)
    return Take.of(
        (
            TakeNote(
                onset_s=onset, length_s=end - onset, pitch=n.pitch, velocity=n.velocity, is_held=n.is_open
            )
            for n, onset, end in zip(once, onsets, ends, strict=True)
        ),
        pedal=(PedalSpan(start_s=start, end_s=end) for start, end in zip(down, up, strict=True)),
    )


def _first_pedal(contents: Contents) -> Sequence[tuple[float, float]]:
    """One foot: of channels that have it, the first."""
    return next((spans for _, spans in sorted(contents.pedal.items()) if spans), ())
