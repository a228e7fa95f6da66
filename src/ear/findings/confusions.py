"""Notes played in place of others, one by one: what an ear note about wrong notes names as its example."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

Value = str | int | float


@dataclass(frozen=True, slots=True, kw_only=True)
class Confusion:
    """A target note in whose place another was played. Pitches as MIDI numbers, a transposition of the take taken off."""

    row: int
    """Of the match."""
    bar: int
    written: int
    played: int
    fifths: int | None = None
    """The key at its place, for the names of keys; None for drums."""
    name: int | None = None
    """How the written note is spelled, on the line of fifths; None where it is not spelled."""
    written_lane: str = ""
    played_lane: str = ""
    """Names of drums; empty for keys."""


def confusion_values(confusions: Sequence[Confusion]) -> dict[str, Value]:
    """Return what fills the sentences of an ear note about these: how many, and the commonest with its first bar."""
    pairs = Counter((confusion.written, confusion.played) for confusion in confusions)
    commonest, _count = pairs.most_common(1)[0]
    example = next(c for c in confusions if (c.written, c.played) == commonest)
    first = next(c for c in confusions if c.written == example.written)
    values: dict[str, Value] = {"count": len(confusions), "where": first.bar}
    if example.written_lane:
        return values | {"written_lane": example.written_lane, "played_lane": example.played_lane}
    values |= {"written": example.written, "played": example.played}
    if first.fifths is not None:
        values["fifths"] = first.fifths
    if first.name is not None:
        values["name"] = first.name
    return values
