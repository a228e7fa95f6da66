"""What of a take the next one is compared with."""

import math
from dataclasses import dataclass

from ear.matching.outcome import Match
from ear.measuring.measures import Measures

MAD_ERROR, MEDIAN_ERROR = 1.16, 1.25
"""Standard errors, times spread over the root of the number of notes, of a spread that was taken
from the median absolute deviation, and of a median; for normal deviations (Huber, "Robust
Statistics", 1981)."""
WANDER = 1.8
"""How much larger the error of a median is for hands, whose deviations wander together: half the
variance a timekeeper's, of which seven tenths carry over from note to note (`players/robot.py`)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """How a take stood: few figures, so that they can be kept or read from a stored result."""

    target: int
    matched: int
    linked: int
    slips: int
    bias_ms: float | None
    spread_ms: float | None

    @classmethod
    def of(cls, match: Match, measures: Measures) -> "Standing":
        """Return the figures that later takes are compared with."""
        return cls(
            target=measures.counts.target,
            matched=measures.counts.matched,
            linked=measures.counts.matched + measures.counts.wrong_pitch,
            slips=len(match.time_base.slips),
            bias_ms=measures.timing.bias_ms.value,
            spread_ms=measures.timing.spread_ms.value,
        )

    @property
    def matched_error(self) -> float:
        """Standard error of the number of right notes, if each note is right by one chance."""
        share = self.matched / self.target
        return math.sqrt(self.target * share * (1.0 - share))

    @property
    def error_ms(self) -> float:
        """Spread over the root of the number of notes; 0 where there is no spread."""
        return (self.spread_ms or 0.0) / math.sqrt(self.linked)
