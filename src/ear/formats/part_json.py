"""A part as plain JSON: how parts are stored, and open for anybody to read."""

from collections.abc import Sequence
from typing import Any

from ear.errors import EarError, FormatError
from ear.notes import (
    ChordMark,
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    PedalMark,
    Section,
    TempoChange,
    TempoMap,
)  # fmt: skip

SCHEMA = "oido.part/1"


def part_to_json(part: Part) -> dict[str, Any]:
    """Ticks are 480 to a quarter note; a note is [onset, length, pitch, velocity, hand, finger, label],
    the last two left out where there are none; `pedal`, left out likewise, has [start, end]."""
    found = {
        "schema": SCHEMA,
        "kind": part.kind.value,
        "fifths": part.fifths,
        "meters": [[c.bar, c.meter.numerator, c.meter.denominator] for c in part.meters.changes],
        "tempos": [[c.tick, c.bpm] for c in part.tempos.changes],
        "least_bars": part.least_bars,
        "sections": [[s.bar, s.name, s.fifths] for s in part.sections],
        "cues": [_note_to_json(n) for n in part.cues],
        "chords": [[c.tick, c.name] for c in part.chords],
        "notes": [_note_to_json(n) for n in part.notes],
    }
    if part.pedal:
        found["pedal"] = [[mark.start_tick, mark.end_tick] for mark in part.pedal]
    return found


def _note_to_json(note: Note) -> list[Any]:
    row = [
        note.onset_tick, note.length_tick, note.pitch, note.velocity, note.hand.value if note.hand else None,
    ]  # fmt: skip
    if note.label is not None:
        return [*row, note.finger, note.label]
    return row if note.finger is None else [*row, note.finger]


def _note_from_json(row: Sequence[Any]) -> Note:
    onset, length, pitch, velocity, hand, *more = row
    finger, label = (*more, None, None)[:2]
    return Note(
        onset_tick=onset, length_tick=length, pitch=pitch, velocity=velocity,
        hand=Hand(hand) if hand else None, finger=finger, label=label,
    )  # fmt: skip


def part_from_json(data: Any) -> Part:
    """The reverse of `part_to_json`. Raises FormatError."""
    if not isinstance(data, dict) or data.get("schema") != SCHEMA:
        raise FormatError(expected=SCHEMA, found=f"{data!r:.40}")
    try:
        return Part.of(
            (_note_from_json(row) for row in data["notes"]),
            kind=Kind(data["kind"]),
            meters=MeterMap(
                [
                    MeterChange(bar=bar, meter=Meter(numerator=over, denominator=under))
                    for bar, over, under in data["meters"]
                ]
            ),
            tempos=TempoMap([TempoChange(tick=tick, bpm=bpm) for tick, bpm in data["tempos"]]),
            fifths=data["fifths"],
            least_bars=data.get("least_bars", 1),
            cues=(_note_from_json(row) for row in data.get("cues", ())),
            chords=(ChordMark(tick=tick, name=name) for tick, name in data.get("chords", ())),
            pedal=(PedalMark(start_tick=start, end_tick=end) for start, end in data.get("pedal", ())),
            sections=(
                Section(bar=bar, name=name, fifths=fifths)
                for bar, name, fifths in data.get("sections", ())
            ),
        )  # fmt: skip
    except (EarError, KeyError, TypeError, ValueError) as problem:
        raise FormatError(expected="a part", found=f"{problem}") from problem
