"""A file from elsewhere, opened: what is in it to choose from, and what of it was not understood."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ear.editing.edited import ALL
from ear.editing.hands import split_hands
from ear.errors import FormatError, ValueOutOfRange
from ear.formats.musicxml import Imported, read_musicxml
from ear.formats.smf import DEFAULT_BPM, Contents, Voice, read_contents
from ear.formats.smf_parts import part_of
from ear.notes import Hand, Kind, Note, Part, kind_on_channel

MIDI_START = b"MThd"
ZIP_START = b"PK\x03\x04"
MIDDLE_C = 60
KEPT = frozenset({"end_of_track", "channel_prefix", "midi_port", "copyright", "text", "instrument_name"})
"""Messages without which nothing is lost."""
LOST = {
    "pitchwheel": "Pitch bends are not kept", "control_change": "Controllers other than the pedal are not kept",
    "program_change": "The sounds that the file asks for are not kept", "sysex": "Messages to one device are not kept",
    "aftertouch": "Aftertouch is not kept", "polytouch": "Aftertouch is not kept",
    "cue_marker": "Cue points are not kept", "sequencer_specific": "What one program wrote for itself is not kept",
    "unknown_meta": "What one program wrote for itself is not kept",
}  # fmt: skip


class HandsFrom(StrEnum):
    """How an imported keyboard part comes by its hands."""

    FILE = "file"
    SPLIT = "split"
    RIGHT = "right"
    LEFT = "left"
    NONE = "none"


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """Something in the file that can be taken or left: a track's channel, or a score's part."""

    key: str
    name: str
    notes: int
    low: int
    high: int
    kind: Kind


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenedFile:
    """What a file holds. `account` says in plain words what was not understood, or is not kept."""

    format: str
    title: str
    choices: tuple[Choice, ...]
    account: tuple[str, ...]
    contents: Contents | None = None
    score: Imported | None = None

    @property
    def kind(self) -> Kind:
        """What most of it is."""
        notes = {kind: sum(c.notes for c in self.choices if c.kind is kind) for kind in Kind}
        return max(notes, key=notes.__getitem__)

    def first_choice(self, kind: Kind) -> tuple[str, ...]:
        """What is taken unless somebody says otherwise: all that is of the kind."""
        fitting = tuple(c.key for c in self.choices if c.kind is kind)
        return fitting or tuple(c.key for c in self.choices)

    def part(self, keys: Collection[str], *, kind: Kind, hands: HandsFrom = HandsFrom.FILE) -> Part:
        """The part of what was chosen. Raises ValueOutOfRange where nothing was."""
        chosen = [c.key for c in self.choices if c.key in keys]
        if not chosen:
            raise ValueOutOfRange("take_at_least_one_track")
        if self.contents is not None:
            part = part_of(self.contents, kind=kind, voices={_voice(key) for key in chosen})
        else:
            assert self.score is not None
            part = _together([self.score.parts[int(key)].part for key in chosen], kind)
        return _with_hands(part, hands)


def open_file(data: bytes) -> OpenedFile:
    """Open a Standard MIDI File, or MusicXML plain or compressed. Raises FormatError."""
    if data.startswith(MIDI_START):
        return _open_midi(data)
    if data.startswith(ZIP_START) or data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        return _open_score(data)
    if not data:
        raise FormatError(expected="a MIDI or MusicXML file", found="an empty file", offset=0)
    start = data[:4].decode("ascii", "replace")
    raise FormatError(expected="a MIDI or MusicXML file", found=repr(start), offset=0)


def _open_midi(data: bytes) -> OpenedFile:
    contents = read_contents(data)
    by_voice: dict[Voice, list[int]] = {}
    for note in contents.notes:
        by_voice.setdefault((note.track, note.channel), []).append(note.pitch)
    choices = tuple(
        Choice(
            key=f"{track}-{channel}",
            name=_voice_name(contents, track, channel),
            notes=len(pitches),
            low=min(pitches),
            high=max(pitches),
            kind=kind_on_channel(channel),
        )
        for (track, channel), pitches in sorted(by_voice.items())
    )
    return OpenedFile(
        format="Standard MIDI File",
        title=next((n.strip() for n in contents.track_names if n.strip()), ""),
        choices=choices,
        account=tuple(_midi_account(contents)),
        contents=contents,
    )


def _voice_name(contents: Contents, track: int, channel: int) -> str:
    name = contents.track_names[track].strip() or f"track {track + 1}"
    return f"{name}, channel {channel + 1}"


def _voice(key: str) -> Voice:
    track, channel = key.split("-")
    return int(track), int(channel)


def _midi_account(contents: Contents) -> Iterable[str]:
    if not contents.tempos:
        yield f"The file names no tempo: {DEFAULT_BPM:g} is taken, as its format says"
    if not contents.meters:
        yield "The file names no meter: four-four is taken"
    said: dict[str, int] = {}
    for kind, count in contents.others.items():
        if kind in KEPT:
            continue
        words = LOST.get(kind, f"Messages of the kind “{kind}” are not kept")
        said[words] = said.get(words, 0) + count
    for words, count in sorted(said.items()):
        yield f"{words} ({count})" if count > 1 else words


def _open_score(data: bytes) -> OpenedFile:
    score = read_musicxml(data)
    choices = tuple(
        Choice(
            key=str(k),
            name=found.name,
            notes=len(found.part.notes),
            low=min((n.pitch for n in found.part.notes), default=0),
            high=max((n.pitch for n in found.part.notes), default=0),
            kind=found.part.kind,
        )
        for k, found in enumerate(score.parts)
    )
    return OpenedFile(
        format="MusicXML", title=score.title, choices=choices, account=score.account, score=score
    )


def _together(parts: Sequence[Part], kind: Kind) -> Part:
    """Parts of one score as one: of two that tell of no hands, the first is the right hand."""
    first = parts[0]
    notes: list[Note] = []
    are_hands = (
        len(parts) == 2 and kind.instrument.has_key and all(n.hand is None for p in parts for n in p.notes)
    )
    for part, hand in zip(parts, (Hand.RIGHT, Hand.LEFT, *[None] * len(parts)), strict=False):
        for note in part.notes:
            if kind.instrument.has_lanes:
                notes.append(replace(note, hand=None, finger=None))
            else:
                notes.append(replace(note, hand=hand) if are_hands else note)
    by_place = {(n.onset_tick, n.pitch): n for n in notes}
    cues = [cue for part in parts for cue in part.cues]
    pedals = [part.pedal for part in parts if part.pedal]
    return replace(
        first.with_notes(by_place.values()),
        kind=kind,
        # One foot: of two parts that write it, the first.
        pedal=pedals[0] if pedals and kind.instrument.has_pedal else (),
        cues=tuple(sorted(cues, key=lambda n: (n.onset_tick, n.pitch))),
    )


def _with_hands(part: Part, hands: HandsFrom) -> Part:
    if not part.instrument.has_hands or hands is HandsFrom.FILE or not part.notes:
        return part
    if hands is HandsFrom.SPLIT:
        return split_hands(part, ALL, at_pitch=MIDDLE_C).part
    hand = {HandsFrom.RIGHT: Hand.RIGHT, HandsFrom.LEFT: Hand.LEFT}.get(hands)
    return part.with_notes(replace(n, hand=hand) for n in part.notes)
