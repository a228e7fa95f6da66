"""A kit map as JSON: which numbers a module sends for which lane.

`{"schema": "oido.kit/1", "lanes": {"snare": [38, 40, 37], "foot pedal": [44]}}`: the first number of a lane is the one that is
written. A lane that the kit knows keeps its place on the staff; another is one of its own. Numbers that no line names
stay where General MIDI has them.
"""

import json
from dataclasses import replace
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from ear.errors import EarError, FormatError
from ear.notes import STANDARD_KIT, KitMap, Lane
from ear.plain import from_plain
from ear.text import term

SCHEMA: Literal["oido.kit/1"] = "oido.kit/1"
OWN_STEP, OWN_HEAD = 4, "diamond"
"""Where lanes stand that the standard kit does not have."""

Number = Annotated[int, Meta(ge=0, le=127)]
Name = Annotated[str, Meta(min_length=1, max_length=24)]


class _StoredKit(msgspec.Struct, kw_only=True):
    schema: Literal["oido.kit/1"]
    lanes: dict[Name, Annotated[list[Number], Meta(min_length=1)]]


def read_kit(data: bytes) -> KitMap:
    """Read a kit map from JSON. Raises FormatError for anything else, or for a number in two lanes."""
    try:
        plain: Any = json.loads(data)
    except (ValueError, RecursionError) as problem:
        raise FormatError(expected=term("a kit map (JSON)"), actual=f"{problem}") from problem
    stored = from_plain(plain, _StoredKit, expected=SCHEMA)
    known = {lane.name: lane for lane in STANDARD_KIT.lanes}
    taken = {number for numbers in stored.lanes.values() for number in numbers}
    rest = [
        replace(lane, pitches=left)
        for lane in STANDARD_KIT.lanes
        if lane.name not in stored.lanes and (left := tuple(p for p in lane.pitches if p not in taken))
    ]
    own = [
        replace(known[name], pitches=tuple(numbers)) if name in known
        else Lane(name=name, pitches=tuple(numbers), staff_step=OWN_STEP, head=OWN_HEAD)
        for name, numbers in stored.lanes.items()
    ]  # fmt: skip
    try:
        return KitMap(tuple(sorted([*rest, *own], key=lambda lane: -lane.staff_step)))
    except EarError as problem:
        raise FormatError(expected=term("each number in one lane"), actual=f"{problem}") from problem
