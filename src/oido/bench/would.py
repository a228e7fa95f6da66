"""How two states of a part differ, in figures."""

from dataclasses import dataclass

from ear.notes import Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Would:
    """What makes one part of another, counted in notes: what a tool would do, what a version changed."""

    other: int
    """Notes that are not as they were."""
    more: int
    fewer: int
    is_other: bool
    """Is anything of the part otherwise?"""

    @classmethod
    def between(cls, before: Part, after: Part) -> "Would":
        was, now = set(before.notes), set(after.notes)
        gone, come = len(was - now), len(now - was)
        other = min(gone, come)
        return cls(other=other, more=come - other, fewer=gone - other, is_other=before != after)
