"""A part as plain JSON: how parts are stored, and open for anybody to read."""

from dataclasses import asdict
from typing import Any, Literal

import msgspec

from ear.errors import EarError, FormatError
from ear.notes import (
    Articulation,
    BarSigns,
    ChordMark,
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Ornament,
    OwnLane,
    Part,
    PedalMark,
    Section,
    SignKind,
    StaffSign,
    TempoChange,
    TempoMap,
    Unison,
    WrittenForm,
)  # fmt: skip
from ear.plain import alike, from_plain, to_plain
from ear.text import term

SCHEMA: Literal["oido.part/1"] = "oido.part/1"
SHORTEST_ROW = 5
"""Onset, length, pitch, velocity, hand."""


class _UnisonRow(msgspec.Struct, array_like=True):
    length_tick: int
    hand: Hand | None = None
    voice: int | None = None


class _NoteRow(msgspec.Struct, array_like=True):
    onset_tick: int
    length_tick: int
    pitch: int
    velocity: int
    hand: Hand | None = None
    finger: int | None = None
    label: str | None = None
    name_fifth: int | None = None
    is_proposed: bool = False
    voice: int | None = None
    ornament: Ornament | None = None
    grace_semitones: int | None = None
    articulations: tuple[Articulation, ...] = ()
    unison: _UnisonRow | None = None


_NOTHING_MORE = [*_NoteRow.__struct_defaults__[1:-2], [], None]


class _SignsRow(msgspec.Struct, kw_only=True, omit_defaults=True):
    bar: int
    repeats_from: bool = False
    repeats_to: int = 0
    ending: list[int] = []
    dacapo: bool = False
    dalsegno: bool = False
    segno: bool = False
    tocoda: bool = False
    coda: bool = False
    fine: bool = False


class _FormRow(msgspec.Struct, kw_only=True):
    bars: int
    signs: list[_SignsRow]


class _SignRow(msgspec.Struct, array_like=True):
    tick: int
    kind: SignKind
    end_tick: int
    text: str = ""
    is_left: bool = False


class _MeterRow(msgspec.Struct, array_like=True):
    bar: int
    numerator: int
    denominator: int
    groups: tuple[int, ...] = ()


class _StoredPart(msgspec.Struct, kw_only=True):
    schema: Literal["oido.part/1"]
    kind: Kind
    fifths: int
    meters: list[_MeterRow]
    tempos: list[tuple[int, float]]
    least_bars: int = 1
    sections: list[tuple[int, str, int | None]] = []
    cues: list[_NoteRow] = []
    chords: list[tuple[int, str]] = []
    notes: list[_NoteRow]
    pedal: list[tuple[int, int]] = []
    lanes: list[tuple[str, str]] = []
    signs: list[_SignRow] = []
    form: _FormRow | None = None


def part_to_json(part: Part) -> dict[str, object]:
    """Return ticks are 480 to a quarter note; a note is [onset, length, pitch, velocity, hand, finger, label,
    fifth, proposed, voice, ornament, semitones to its grace note, articulations], the last eight left out where there are
    none; `fifth` is a name that was given, on the line of fifths (C 0, G 1, F -1); `pedal` and `lanes`, left
    out likewise, have [start, end] and [lane, its own name]; `signs` have
    [tick, kind, end, text, whether at the left hand]; a metre is [bar, numerator, denominator], with its groups behind
    where it says them; `form`, where bars are written with signs of
    repetition, has how many are written and the signs of those that have any.
    """
    stored = _StoredPart(
        schema=SCHEMA, kind=part.kind, fifths=part.fifths, least_bars=part.least_bars,
        meters=[],
        tempos=[(c.tick, c.bpm) for c in part.tempos.changes],
        sections=[(s.bar, s.name, s.fifths) for s in part.sections],
        chords=[(c.tick, c.name) for c in part.chords],
        notes=[],
        pedal=[(mark.start_tick, mark.end_tick) for mark in part.pedal],
        lanes=[(own.lane, own.name) for own in part.lanes],
        signs=[alike(sign, _SignRow) for sign in part.signs],
        form=None if part.form is None else _form_row(part.form),
    )  # fmt: skip
    plain: dict[str, object] = to_plain(stored)
    plain["meters"] = [_meter_row(change) for change in part.meters.changes]
    plain["notes"] = [_note_row(n) for n in part.notes]
    plain["cues"] = [_note_row(n) for n in part.cues]
    for name in ("pedal", "lanes", "signs", "form"):
        if not plain[name]:
            del plain[name]
    return plain


def part_from_json(data: Any) -> Part:
    """Return the value that `part_to_json` wrote. Raises FormatError."""
    stored = from_plain(data, _StoredPart, expected="a part")
    try:
        return Part.of(
            (alike(row, Note) for row in stored.notes),
            kind=stored.kind,
            meters=MeterMap([MeterChange(bar=row.bar, meter=alike(row, Meter)) for row in stored.meters]),
            tempos=TempoMap([TempoChange(tick=tick, bpm=bpm) for tick, bpm in stored.tempos]),
            fifths=stored.fifths,
            least_bars=stored.least_bars,
            cues=(alike(row, Note) for row in stored.cues),
            chords=(ChordMark(tick=tick, name=name) for tick, name in stored.chords),
            pedal=(PedalMark(start_tick=start, end_tick=end) for start, end in stored.pedal),
            sections=(Section(bar=bar, name=name, fifths=fifths) for bar, name, fifths in stored.sections),
            lanes=(OwnLane(lane=lane, name=name) for lane, name in stored.lanes),
            signs=(alike(row, StaffSign) for row in stored.signs),
            form=None if stored.form is None else _form_of(stored.form),
        )
    except EarError as problem:
        raise FormatError(expected=term("a part"), actual=f"{problem}") from problem


def _meter_row(change: MeterChange) -> list[object]:
    meter = change.meter
    row: list[object] = [change.bar, meter.numerator, meter.denominator]
    return [*row, list(meter.groups)] if meter.groups else row


def _note_row(note: Note) -> list[Any]:
    """What `_NoteRow` reads, written by hand: a part may have thousands."""
    row = [
        note.onset_tick, note.length_tick, note.pitch, note.velocity, note.hand and str(note.hand), note.finger, note.label,
        note.name_fifth, note.is_proposed, note.voice, note.ornament and str(note.ornament),
        note.grace_semitones, [str(each) for each in note.articulations], _unison_row(note.unison),
    ]  # fmt: skip
    if row[SHORTEST_ROW:] == _NOTHING_MORE:
        return row[:SHORTEST_ROW]
    while len(row) > SHORTEST_ROW and (row[-1] is None or row[-1] is False or row[-1] == []):
        row.pop()
    return row


def _unison_row(unison: Unison | None) -> list[Any] | None:
    return None if unison is None else [unison.length_tick, unison.hand and str(unison.hand), unison.voice]


def _form_row(form: WrittenForm) -> _FormRow:
    signs = [
        _SignsRow(bar=bar, **{**asdict(bar_signs), "ending": sorted(bar_signs.ending)})
        for bar, bar_signs in form.signs
    ]
    return _FormRow(bars=form.bars, signs=signs)


def _form_of(row: _FormRow) -> WrittenForm:
    return WrittenForm(bars=row.bars, signs=tuple((signs.bar, alike(signs, BarSigns)) for signs in row.signs))
