"""The rules of an exercise without written notes, as JSON.

`{"schema": "oido.free/1", "kind": "keyboard", "meter": "4/4", "bpm": 100, "bars": 8, "grid_ticks": 240, "swing": 1.0,
"pitches": "scale", "scale": "A natural minor", "chords": "", "lanes": [], "least_a_bar": 2, "most_a_bar": 6,
"pairs_repeat": false}`: what stands behind `bars` may be left out (`FreeSpec`). A beat of the grid is in ticks, 480 to a
quarter note.
"""

import json
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from ear.errors import EarError, FormatError
from ear.free.exercise import FreeSpec
from ear.notes import Kind, MeterMap, Part, TempoMap
from ear.plain import from_plain
from ear.text import term
from ear.units import MAX_BPM, MIN_BPM

SCHEMA: Literal["oido.free/1"] = "oido.free/1"


class _StoredPage(msgspec.Struct, kw_only=True):
    schema: Literal["oido.free/1"]
    kind: Kind
    meter: Annotated[str, Meta(pattern=r"^[1-9][0-9]?/(1|2|4|8|16|32)$")]
    bpm: Annotated[float, Meta(ge=MIN_BPM, le=MAX_BPM)]
    fifths: Annotated[int, Meta(ge=-7, le=7)] = 0


def read_free_rules(data: bytes) -> tuple[Part, FreeSpec]:
    """Read rules from JSON; return the page without notes, and what is asked for on it. Raises FormatError."""
    try:
        plain: Any = json.loads(data)
    except (ValueError, RecursionError) as problem:
        raise FormatError(expected=term("a free exercise"), actual=f"{problem}") from problem
    stored = from_plain(plain, _StoredPage, expected=SCHEMA)
    over, under = map(int, stored.meter.split("/"))
    try:
        spec = FreeSpec.from_json(plain)
        page = spec.page(
            kind=stored.kind,
            meters=MeterMap.of(over, under),
            tempos=TempoMap.of(stored.bpm),
            fifths=stored.fifths,
        )
    except FormatError:
        raise
    except EarError as problem:
        raise FormatError(expected=term("a free exercise"), actual=f"{problem}") from problem
    return page, spec
