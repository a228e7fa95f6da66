"""What a teacher writes at notes and over bars: articulations, slurs, fermatas, words."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ear.errors import ValueOutOfRange

MAX_TEXT_LENGTH = 60
"""Characters of words over a bar."""


class Articulation(StrEnum):
    """How a note is struck or let go."""

    STACCATO = "staccato"
    """It sounds half as long as it is written."""
    TENUTO = "tenuto"
    ACCENT = "accent"


STACCATO_TIMES = 2
"""So many times as long as it sounds a staccato note is written."""
FERMATA_TIMES = 2
"""So many times as long as it is written the click takes under a fermata at which it waits."""


class SignKind(StrEnum):
    """What stands over or under the notes, by place."""

    TEXT = "text"
    SLUR = "slur"
    FERMATA = "fermata"


@dataclass(frozen=True, slots=True, kw_only=True)
class StaffSign:
    """One sign: a slur from the notes at one tick to those at another, a fermata or words at a tick.

    A fermata whose `end_tick` lies behind its tick has tempos of its own until there: the click waits.
    """

    tick: int
    kind: SignKind
    end_tick: int
    """Of a slur where its last notes begin; of words the tick itself."""
    text: str = ""
    is_left: bool = False
    """It stands at the left hand's staff."""

    def __post_init__(self) -> None:
        if (
            self.tick < 0
            or self.end_tick < self.tick
            or (self.kind is SignKind.SLUR and self.end_tick == self.tick)
        ):
            raise ValueOutOfRange("sign_ends_before_it_begins")
        if (self.kind is SignKind.TEXT) is not bool(self.text.strip()) or len(self.text) > MAX_TEXT_LENGTH:
            raise ValueOutOfRange("sign_text_length", most=MAX_TEXT_LENGTH)

    @property
    def waits(self) -> bool:
        """Does the click wait under it?"""
        return self.kind is SignKind.FERMATA and self.end_tick > self.tick

    def moved(self, ticks: int) -> "StaffSign":
        """Return the sign at another place."""
        return replace(self, tick=self.tick + ticks, end_tick=self.end_tick + ticks)


KINDS = tuple(SignKind)


def sign_place(sign: StaffSign) -> tuple[int, int, bool, int, str]:
    """Return a key that puts signs in order: by tick, then by kind."""
    return (sign.tick, KINDS.index(sign.kind), sign.is_left, sign.end_tick, sign.text)


def check_signs(signs: Sequence[StaffSign]) -> None:
    """Check that signs are in order, and none is there twice. Raises ValueOutOfRange."""
    places = list(map(sign_place, signs))
    if places != sorted(set(places)):
        raise ValueOutOfRange("signs_not_sorted")
