"""A short plan of practice: what recent takes lost, the most points for the time first."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Generic, TypeVar

LOOPS = 4
"""Times that a passage is played: what is played once is not practised."""
BETWEEN_S = 5.0
"""From one loop to the next the hands are put back."""
DEFAULT_MINUTES = 5.0

Source = TypeVar("Source")


@dataclass(frozen=True, slots=True, kw_only=True)
class PracticePassage(Generic[Source]):
    """Bars that lost points in a take, and how long one loop of them lasts at the tempo of practice."""

    source: Source
    """What it is of; told apart by equality."""
    first_bar: int
    last_bar: int
    lost_points: float
    loop_s: float

    @property
    def practice_s(self) -> float:
        """Return how long it takes to practise the passage once over."""
        return LOOPS * (self.loop_s + BETWEEN_S)

    @property
    def points_per_minute(self) -> float:
        """Return what can be won back in a minute."""
        return 60 * self.lost_points / self.practice_s

    def overlaps(self, other: "PracticePassage[Source]") -> bool:
        """Return whether two passages share bars of one source."""
        return (
            self.source == other.source
            and self.first_bar <= other.last_bar
            and other.first_bar <= self.last_bar
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned(Generic[Source]):
    """A passage of the plan, and how long to practise it."""

    passage: PracticePassage[Source]
    seconds: float


def plan(
    passages: Iterable[PracticePassage[Source]], *, minutes: float = DEFAULT_MINUTES
) -> tuple[Planned[Source], ...]:
    """Return what to practise in so many minutes, in order: the most points for the time first.

    Bars are practised once, for what they lost most by. What does not fit any more is passed over for what does. The first
    is there even if it alone takes longer. Nothing that lost no points is in the plan. Time that is left is shared out by the
    points that were lost.
    """
    left_s = 60 * minutes
    chosen: list[PracticePassage[Source]] = []
    for passage in sorted(passages, key=lambda each: -each.points_per_minute):
        if passage.lost_points <= 0 or any(passage.overlaps(other) for other in chosen):
            continue
        if chosen and passage.practice_s > left_s:
            continue
        chosen.append(passage)
        left_s -= passage.practice_s
    lost_points = sum(passage.lost_points for passage in chosen)
    return tuple(
        Planned(
            passage=passage,
            seconds=passage.practice_s + max(0.0, left_s) * passage.lost_points / lost_points,
        )
        for passage in chosen
    )
