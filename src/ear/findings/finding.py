"""What an ear note is before anything is said or weighed: a code, its place, its evidence, its size."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from ear.findings.confusions import Confusion, Value


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One cause that was heard. `code` stands in `ear.findings.table`, with all that depends on it.

    `rows` number the rows of the match that are its evidence. `values` fill its sentences; they are
    facts (a pitch by its number, a place in ticks), so that each reader's conventions name them.
    """

    code: str
    size: float
    unit: str
    rows: tuple[int, ...] = ()
    bars: tuple[int, int] | None = None
    quarter: float | None = None
    """Where in the target, where it is a point."""
    place: str | None = None
    """A hand or a lane, where the finding is about one."""
    values: Mapping[str, Value] = field(default_factory=dict)
    confusions: tuple[Confusion, ...] = ()
    """Of wrong notes, one for each row; empty in what an older version measured."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Practice:
    """A suggested rung: which bars, at which share of the tempo, with which hand or lane alone."""

    first_bar: int
    last_bar: int
    tempo_share: float
    alone: str | None = None
