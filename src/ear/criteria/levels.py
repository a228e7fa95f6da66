"""Levels of strictness: how close to the beat counts as in time, how much must be right to count at all."""

from dataclasses import dataclass

from ear.errors import UnknownName
from ear.text import term

FULL_OF_ROOM = 0.25
NONE_OF_ROOM = 0.5
"""A window is never wider than these shares of the way to the next note: past half of it, the note stands nearer to
another place in the bar."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """Full credit up to `full_ms` off, none from `none_ms` on, a straight line between."""

    full_ms: float
    none_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """How much a player is asked for."""

    key: str
    name: str
    window: Window
    beside_share: float
    """What a note in time with the player's own pulse is worth against one in time with the click."""
    floor_percent: float
    """Share of right notes up to which Notes gives nothing."""


LEVELS = {
    level.key: level
    for level in (
        Level(
            key="first-steps", name=term("First steps"), window=Window(full_ms=60, none_ms=160),
            beside_share=0.7, floor_percent=40,
        ),
        Level(
            key="building", name=term("Building"), window=Window(full_ms=40, none_ms=120),
            beside_share=0.5, floor_percent=50,
        ),
        Level(
            key="secure", name=term("Secure"), window=Window(full_ms=25, none_ms=80),
            beside_share=0.3, floor_percent=60,
        ),
        Level(
            key="exacting", name=term("Exacting"), window=Window(full_ms=15, none_ms=50),
            beside_share=0.1, floor_percent=70,
        ),
    )
}  # fmt: skip
DEFAULT_LEVEL = LEVELS["building"]


def level_named(name: str) -> Level:
    """Return a level by key or name, in any case. Raises UnknownName."""
    key = name.strip().lower().replace(" ", "-")
    if key not in LEVELS:
        raise UnknownName(kind="level", name=name, known=tuple(LEVELS))
    return LEVELS[key]


def window_for(level: Level, *, room_ms: float) -> Window:
    """Return the level's window, narrowed where the notes about a place are so many ms apart."""
    return Window(
        full_ms=min(level.window.full_ms, FULL_OF_ROOM * room_ms),
        none_ms=min(level.window.none_ms, NONE_OF_ROOM * room_ms),
    )
