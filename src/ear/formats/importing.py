"""A file from elsewhere, opened: what is in it to choose from, and what of it was not understood."""

import re
from collections.abc import Collection
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any, Literal

import msgspec

from ear.editing.bars import only_bars
from ear.editing.edited import ALL
from ear.editing.hands import split_hands
from ear.errors import FormatError
from ear.formats import limits
from ear.formats.account import ImportLosses, Lost, NotImported
from ear.formats.multi_part_import import hand_named, together
from ear.formats.musicxml import read_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.smf import Contents, read_contents
from ear.formats.smf_parts import voice_parts
from ear.notes import Hand, Kind, Part
from ear.plain import from_plain, to_plain
from ear.text import term

SCHEMA: Literal["oido.opened/1"] = "oido.opened/1"
MIDI_START = b"MThd"
ZIP_START = b"PK\x03\x04"
UTF_16 = (b"\xff\xfe", b"\xfe\xff")
MIDDLE_C = 60
KEYS_NAMED = re.compile(
    r"\b(piano|keys?|keyboard|klavier|clavier|pianoforte|teclado|tastiera)\b", re.IGNORECASE
)
"""Tracks that are for keys, by name; and by the sounds that General MIDI 1 has for pianos."""
PIANO_PROGRAMS = range(8)
MAX_HANDS = 2
NO_TITLE = re.compile(
    r"(conductor|tempo( track| map)?|master|meta|global|control|song|sequence|score|partitur|untitled|unbenannt|new"
    r"|midi( out| file)?|(track|spur|piste|part|channel|staff|voice|instrument)\s*\d*|seq-?\d*|\d*)",
    re.IGNORECASE,
)
"""What programs call a first track that nobody has named."""


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
    number: int
    """Of the track or part, from 1: what is said where there is no name."""
    channel: int | None
    """Of a MIDI file, from 1."""
    is_keys: bool
    """Does its name or its sound say that it is for keys?"""
    part: Part

    @property
    def kind(self) -> Kind:
        """What it is for."""
        return self.part.kind

    @property
    def notes(self) -> int:
        """How many it has."""
        return len(self.part.notes)

    @property
    def low(self) -> int:
        """Its lowest pitch; 0 where it has none."""
        return min((n.pitch for n in self.part.notes), default=0)

    @property
    def high(self) -> int:
        """Its highest pitch; 0 where it has none."""
        return max((n.pitch for n in self.part.notes), default=0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """What was chosen of a file as one part, with what did not come in for that choice alone."""

    part: Part
    not_imported: tuple[NotImported, ...]
    first_bar: int
    """Of the file: 1, or 0 where it begins with a pick-up."""
    bars: int
    """In the file; the part may be some of them."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenedFile:
    """What a file holds. `title` is the piece's, empty where the file has none."""

    format: str
    title: str
    choices: tuple[Choice, ...]
    not_imported: tuple[NotImported, ...]

    @property
    def kind(self) -> Kind:
        """What most of it is."""
        notes = {kind: sum(c.notes for c in self.choices if c.kind is kind) for kind in Kind}
        return max(notes, key=notes.__getitem__)

    def first_choice(self, kind: Kind) -> tuple[str, ...]:
        """Return the choice that is proposed: parts named for hands, else parts for keys, else, among parts
        that more than two hands could play, the one with the most notes.
        """
        fitting = [c for c in self.choices if c.kind is kind and c.notes] or [
            c for c in self.choices if c.notes
        ]
        if kind.instrument.has_lanes or len(fitting) <= MAX_HANDS:
            return tuple(c.key for c in fitting)
        for chosen in (
            [c for c in fitting if hand_named(c.name)],
            [c for c in fitting if c.is_keys],
            [max(fitting, key=lambda c: c.notes)],
        ):
            if chosen:
                return tuple(c.key for c in chosen)
        return ()

    def take(
        self,
        keys: Collection[str],
        *,
        kind: Kind,
        hands: HandsFrom = HandsFrom.FILE,
        bars: tuple[int, int] | None = None,
    ) -> Taken:
        """Return what was chosen as one part: all of it, or the bars from `first` to `last`.

        Raises ValueOutOfRange.

        Raises ValueOutOfRange where nothing was chosen, or bars that it has not.
        """
        merged = together([(c.name, c.part) for c in self.choices if c.key in keys], kind)
        account = ImportLosses()
        for tick in merged.doubled:
            account.lose(Lost.DOUBLED, merged.part.meters.bar_at(tick).number)
        for tick in merged.unisons:
            account.lose(Lost.UNISON, merged.part.meters.bar_at(tick).number)
        part, last = merged.part, merged.part.last_bar
        if bars is not None and bars != (part.first_bar, last):
            part = only_bars(part, first=bars[0], last=bars[1]).part
        return Taken(
            part=_with_hands(part, hands),
            not_imported=account.rows(),
            first_bar=merged.part.first_bar,
            bars=last,
        )

    def part(self, keys: Collection[str], *, kind: Kind, hands: HandsFrom = HandsFrom.FILE) -> Part:
        """Return the part made of everything chosen. Raises ValueOutOfRange if nothing was."""
        return self.take(keys, kind=kind, hands=hands).part


def open_file(data: bytes) -> OpenedFile:
    """Open a Standard MIDI File, or MusicXML plain or compressed. Raises FormatError."""
    check_start(data)
    return _open_midi(data) if data.startswith(MIDI_START) else _open_score(data)


def check_start(data: bytes) -> None:
    """Check the first bytes of a file without reading it.

    Raises FormatError if it is plainly no file of these formats.
    """
    if data.startswith((MIDI_START, ZIP_START, *UTF_16)) or data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(
        b"<"
    ):
        return
    if not data:
        raise FormatError(expected=term("a MIDI or MusicXML file"), actual="an empty file", offset=0)
    start = data[:4].decode("ascii", "replace")
    raise FormatError(expected=term("a MIDI or MusicXML file"), actual=repr(start), offset=0)


def _open_midi(data: bytes) -> OpenedFile:
    contents = read_contents(data)
    voices = voice_parts(contents)
    return OpenedFile(
        format="Standard MIDI File",
        title=_midi_title(contents),
        choices=tuple(
            Choice(
                key=f"{each.voice[0]}-{each.voice[1]}",
                name=each.name,
                number=each.voice[0] + 1,
                channel=each.voice[1] + 1,
                is_keys=bool(KEYS_NAMED.search(each.name)) or each.program in PIANO_PROGRAMS,
                part=each.part,
            )
            for each in voices
        ),
        not_imported=contents.not_imported,
    )


def _midi_title(contents: Contents) -> str:
    """The first track's name is the piece's (RP-001), unless it names what the track is."""
    first, *others = contents.track_names
    plays = any(note.track == 0 for note in contents.notes)
    is_instrument = hand_named(first) or KEYS_NAMED.fullmatch(first) or (plays and any(others))
    return "" if is_instrument or NO_TITLE.fullmatch(first.strip()) else first


def _open_score(data: bytes) -> OpenedFile:
    score = read_musicxml(data)
    return OpenedFile(
        format="MusicXML",
        title=score.title,
        choices=tuple(
            Choice(
                key=str(k), name=score_part.name, number=k + 1, channel=None, part=score_part.part,
                is_keys=bool(KEYS_NAMED.search(score_part.name)) or any(n.hand for n in score_part.part.notes),
            )
            for k, score_part in enumerate(score.parts)
        ),
        not_imported=score.not_imported,
    )  # fmt: skip


def _with_hands(part: Part, hands: HandsFrom) -> Part:
    if not part.instrument.has_hands or hands is HandsFrom.FILE or not part.notes:
        return part
    if hands is HandsFrom.SPLIT:
        return split_hands(part, ALL, at_pitch=MIDDLE_C).part
    hand = {HandsFrom.RIGHT: Hand.RIGHT, HandsFrom.LEFT: Hand.LEFT}.get(hands)
    return part.with_notes(replace(n, hand=hand, voice=None) for n in part.notes)


class _StoredChoice(msgspec.Struct, kw_only=True):
    key: str
    name: str
    number: int
    channel: int | None
    is_keys: bool
    part: Any


class _StoredFile(msgspec.Struct, kw_only=True):
    schema: Literal["oido.opened/1"]
    format: str
    title: str
    choices: list[_StoredChoice]
    not_imported: list[tuple[Lost, int | None, int]]


def opened_to_json(opened: OpenedFile) -> dict[str, object]:
    """Return an opened file as plain values for JSON, so that it is read once, in a process of its own."""
    stored = _StoredFile(
        schema=SCHEMA, format=opened.format, title=opened.title,
        choices=[
            _StoredChoice(key=c.key, name=c.name, number=c.number, channel=c.channel, is_keys=c.is_keys,
                          part=part_to_json(c.part))
            for c in opened.choices
        ],
        not_imported=[(row.feature, row.bar, row.count) for row in opened.not_imported],
    )  # fmt: skip
    plain: dict[str, object] = to_plain(stored)
    return plain


def opened_from_json(data: Any) -> OpenedFile:
    """Return the value that `opened_to_json` wrote. Raises FormatError."""
    stored = from_plain(data, _StoredFile, expected="an opened file")
    return OpenedFile(
        format=stored.format,
        title=stored.title,
        choices=tuple(
            Choice(
                key=c.key,
                name=c.name,
                number=c.number,
                channel=c.channel,
                is_keys=c.is_keys,
                part=part_from_json(c.part),
            )
            for c in stored.choices
        ),
        not_imported=tuple(
            NotImported(feature=feature, bar=bar, count=count) for feature, bar, count in stored.not_imported
        ),
    )


def read_to_plain(data: bytes) -> dict[str, object]:
    """Open a file and return what is in it as plain values.

    The sandboxed process calls this. Raises FormatError.
    """
    return opened_to_json(open_file(data))


def bars_to_take(bars: int) -> tuple[int, int] | None:
    """Return the bars proposed for import from a file of so many bars; None if all of it fits into an exercise."""
    return (1, limits.PART_BARS) if bars > limits.PART_BARS else None
