"""Which note or bar something is about: one value with one codec, for settings, pages and scripts."""

import re
from dataclasses import dataclass
from enum import StrEnum
from typing import Self

from ear.errors import ValueOutOfRange

PLACE_PATTERN = re.compile(r"[tkb][0-9]{1,6}")


class PlaceKind(StrEnum):
    """What the number of a place counts. The letters are stored, and are in the ids of drawn notes."""

    TARGET = "t"
    """A written note, from 0 in the part."""
    PLAYED = "k"
    """A played note, from 0 in the take."""
    BAR = "b"
    """A bar, from 1."""


@dataclass(frozen=True, slots=True, order=True)
class NotePlace:
    """A written note, a played note or a bar of one take and its part."""

    kind: PlaceKind
    number: int

    @classmethod
    def target(cls, number: int) -> Self:
        """Return the place of a written note."""
        return cls(PlaceKind.TARGET, number)

    @classmethod
    def played(cls, number: int) -> Self:
        """Return the place of a played note."""
        return cls(PlaceKind.PLAYED, number)

    @classmethod
    def bar(cls, number: int) -> Self:
        """Return the place of a bar."""
        return cls(PlaceKind.BAR, number)

    @classmethod
    def of_row(cls, target: int | None, played: int | None) -> Self:
        """Return the place of a row of the match: its written note, or the played one that belongs to none."""
        if target is not None:
            return cls.target(target)
        assert played is not None
        return cls.played(played)

    @classmethod
    def read(cls, text: str) -> Self:
        """Return the place that `str` wrote: “t12”. Raises ValueOutOfRange."""
        if not PLACE_PATTERN.fullmatch(text):
            raise ValueOutOfRange("note_override_place_unreadable")
        return cls(PlaceKind(text[0]), int(text[1:]))

    def __str__(self) -> str:
        return f"{self.kind.value}{self.number}"
