"""A part as plain JSON: how parts are stored, and open for anybody to read."""

from typing import Any

from ear.errors import EarError, FormatError
from ear.notes import Hand, Kind, Meter, MeterChange, MeterMap, Note, Part, TempoChange, TempoMap  # fmt: skip

SCHEMA = "oido.part/1"


def part_to_json(part: Part) -> dict[str, Any]:
    """Ticks are 480 to a quarter note; a note is [onset, length, pitch, velocity, hand]."""
    return {
        "schema": SCHEMA,
        "kind": part.kind.value,
        "fifths": part.fifths,
        "meters": [[c.bar, c.meter.numerator, c.meter.denominator] for c in part.meters.changes],
        "tempos": [[c.tick, c.bpm] for c in part.tempos.changes],
        "notes": [
            [n.onset_tick, n.length_tick, n.pitch, n.velocity, n.hand.value if n.hand else None]
            for n in part.notes
        ],
    }


def part_from_json(data: Any) -> Part:
    """The reverse of `part_to_json`. Raises FormatError."""
    if not isinstance(data, dict) or data.get("schema") != SCHEMA:
        raise FormatError(expected=SCHEMA, found=f"{data!r:.40}")
    try:
        return Part.of(
            (
                Note(
                    onset_tick=onset, length_tick=length, pitch=pitch, velocity=velocity,
                    hand=Hand(hand) if hand else None,
                )
                for onset, length, pitch, velocity, hand in data["notes"]
            ),
            kind=Kind(data["kind"]),
            meters=MeterMap(
                [
                    MeterChange(bar=bar, meter=Meter(numerator=over, denominator=under))
                    for bar, over, under in data["meters"]
                ]
            ),
            tempos=TempoMap([TempoChange(tick=tick, bpm=bpm) for tick, bpm in data["tempos"]]),
            fifths=data["fifths"],
        )  # fmt: skip
    except (EarError, KeyError, TypeError, ValueError) as problem:
        raise FormatError(expected="a part", found=f"{problem}") from problem
