"""Show and explain: what a student shows in a copy of a take, in whose words it is explained, and what was found."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from ear.errors import ValueOutOfRange
from ear.plain import from_plain, to_plain

MAX_TERMS = 120
PERCENTS = (25, 50, 75, 100)
"""Of the mark that what is shown and explained can be."""


class Skill(StrEnum):
    """What can be shown in a copy."""

    QUANTISED = "quantised"
    WRONG_NOTE = "wrong_note"
    """A wrong note is moved to the right key."""
    EXTRA_NOTE = "extra_note"
    """A note that was too many is deleted."""
    LENGTHS = "lengths"
    LOUDNESS = "loudness"
    REPEATED = "repeated"
    """A bar is repeated."""


class InWords(StrEnum):
    """Whether it is to be explained, and in whose words."""

    NONE = "none"
    OWN = "own"
    LESSON = "lesson"
    """With the terms of the lesson."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ToShow:
    """One thing that is to be shown. `terms` are those that an explanation in the lesson's words is to use."""

    skill: Skill
    in_words: InWords = InWords.NONE
    terms: str = ""

    def __post_init__(self) -> None:
        if self.in_words is InWords.LESSON and not self.terms.strip():
            raise ValueOutOfRange("lesson_words_missing", field=f"terms-{self.skill.value}")
        if len(self.terms) > MAX_TERMS:
            raise ValueOutOfRange(
                "lesson_words_too_long", field=f"terms-{self.skill.value}", terms_most=MAX_TERMS
            )


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What was found of one thing that a student shows: `count` of `of` notes (or bars) that had to change.

    `of` is None where nothing is counted.
    """

    asked: ToShow
    count: int = 0
    of: int | None = None
    is_done: bool = False
    explanation: str = ""
    """What the student wrote about it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Showing:
    """All of it, as it was handed in; `percent` of the mark are for it."""

    percent: int
    things: tuple[Shown, ...]

    @property
    def ticked(self) -> tuple[int, ...]:
        """What was done, by number."""
        return tuple(n for n, shown in enumerate(self.things) if shown.is_done)

    @property
    def to_explain(self) -> tuple[Shown, ...]:
        """Things that are to be explained, too."""
        return tuple(shown for shown in self.things if shown.asked.in_words is not InWords.NONE)

    def without_explanations(self) -> "Showing":
        """Return what was shown with every explanation left out."""
        return replace(self, things=tuple(replace(shown, explanation="") for shown in self.things))

    def to_json(self) -> dict[str, object]:
        """Return this as plain values for JSON."""
        plain: dict[str, object] = to_plain(self)
        return plain

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> "Showing":
        """Read what `to_json` wrote. Raises FormatError."""
        return from_plain(data, cls, expected="what was shown")
