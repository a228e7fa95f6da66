"""The tempo that a player keeps along the music, as stretches: steady ones, and ones in which it changes evenly."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ear.notes import TempoMap

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class PaceStretch:
    """From one place of the music to another, in quarters from bar 1; the player's tempo over the click's at both."""

    first_quarter: float
    last_quarter: float
    first_ratio: float
    last_ratio: float

    @property
    def is_steady(self) -> bool:
        """Is it one tempo all through?"""
        return self.first_ratio == self.last_ratio


@dataclass(frozen=True, kw_only=True)
class Pace:
    """Stretches that follow one another, at least one. Before the first and behind the last, the tempo is as at that end.

    Within a stretch what a second of the click lasts (one over the ratio) changes evenly along the music.
    """

    stretches: tuple[PaceStretch, ...]

    @classmethod
    def steady(cls, ratio: float) -> "Pace":
        """Return a pace of one tempo for all the music."""
        return cls(
            stretches=(PaceStretch(first_quarter=0.0, last_quarter=1.0, first_ratio=ratio, last_ratio=ratio),)
        )

    @property
    def is_steady(self) -> bool:
        """Is it one tempo for all the music?"""
        return len(self.stretches) == 1 and self.stretches[0].is_steady

    @property
    def is_click(self) -> bool:
        """Is it the click's tempo, all through?"""
        return self.is_steady and self.stretches[0].first_ratio == 1.0

    def ratio(self, tempos: TempoMap) -> float:
        """Return the mean tempo over the click's from the first place to the last: written seconds over played
        seconds.
        """
        if self.is_steady:
            return self.stretches[0].first_ratio
        ends = np.array([self.stretches[0].first_quarter, self.stretches[-1].last_quarter])
        written, played = np.diff(tempos.seconds(ends))[0], np.diff(self.seconds(ends, tempos))[0]
        return float(written / played)

    def ratio_at(self, quarter: float) -> float:
        """Return the tempo over the click's on the way to a place; where it changes, the one before."""
        current = self.stretches[0]
        for stretch in self.stretches[1:]:
            if stretch.first_quarter >= quarter - 1e-6:
                break
            current = stretch
        if current.is_steady or quarter <= current.first_quarter:
            return current.first_ratio
        into = (quarter - current.first_quarter) / (current.last_quarter - current.first_quarter)
        slow = 1.0 / current.first_ratio + min(1.0, into) * (
            1.0 / current.last_ratio - 1.0 / current.first_ratio
        )
        return 1.0 / slow

    def seconds(self, quarters: Floats, tempos: TempoMap) -> Floats:
        """Return the seconds from bar 1 at which places are reached at this pace.

        `quarters` has shape (n,); it works element by element.
        """
        written = tempos.seconds(quarters)
        if self.is_steady:
            plain: Floats = written / self.stretches[0].first_ratio
            return plain
        return self._sums(tempos).at(written)

    def _sums(self, tempos: TempoMap) -> "Sums":
        edges = np.array([s.first_quarter for s in self.stretches] + [self.stretches[-1].last_quarter])
        return Sums(
            edges_s=tempos.seconds(edges),
            first=np.array([1.0 / s.first_ratio for s in self.stretches]),
            last=np.array([1.0 / s.last_ratio for s in self.stretches]),
        )


@dataclass(frozen=True, kw_only=True)
class Sums:
    """Played seconds as the sum of what each second of the click lasts. edges_s: (n + 1,), first and last: (n,)."""

    edges_s: Floats
    first: Floats
    last: Floats

    @cached_property
    def until(self) -> Floats:
        """(n + 1,) played seconds at the edges; nothing at the downbeat of bar 1."""
        along = np.concatenate(([0.0], np.cumsum(np.diff(self.edges_s) * (self.first + self.last) / 2.0)))
        seconds: Floats = along - self._at(np.zeros(1), along)[0]
        return seconds

    def slowness(self, written_s: Floats) -> Floats:
        """Return how long a second of the click lasts at seconds of the click, element by element."""
        k = np.clip(np.searchsorted(self.edges_s, written_s, side="right") - 1, 0, len(self.first) - 1)
        into = np.clip((written_s - self.edges_s[k]) / np.maximum(np.diff(self.edges_s)[k], 1e-9), 0.0, 1.0)
        values: Floats = self.first[k] + into * (self.last - self.first)[k]
        return values

    def at(self, written_s: Floats) -> Floats:
        """Return played seconds at seconds of the click, element by element."""
        return self._at(written_s, self.until)

    def _at(self, written_s: Floats, until: Floats) -> Floats:
        k = np.clip(np.searchsorted(self.edges_s, written_s, side="right") - 1, 0, len(self.first) - 1)
        length = np.diff(self.edges_s)[k]
        into = written_s - self.edges_s[k]
        inside = np.clip(into, 0.0, length)
        grown = (self.last - self.first)[k] * inside * inside / np.maximum(2.0 * length, 1e-9)
        beyond = np.where(into < 0.0, self.first[k], self.last[k]) * (into - inside)
        seconds: Floats = until[k] + self.first[k] * inside + grown + beyond
        return seconds
