"""All that the rules look at, with the small questions that many of them ask."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ear.findings.causes import Causes, causes_of
from ear.findings.standing import Standing
from ear.free.realised import FreeFacts
from ear.matching.outcome import Match, Pair
from ear.measuring.click_distance import ClickDistance, click_distance
from ear.measuring.copies import copied_by
from ear.measuring.fairness import Imprint
from ear.measuring.figures import Floats, Ints
from ear.measuring.linked import bar_places
from ear.measuring.measures import Measures
from ear.measuring.pulse import from_pulse, shaped_ms
from ear.notes import KitMap, Part, Take
from ear.notes.ending import Ending
from ear.units import TICKS_PER_QUARTER

MIN_COPIED = 0.4
"""Of the notes of a take, those that are left over where nearly all have a copy."""
OFF_CLICK_BEATS = 0.25
"""Nearer to a beat of the click, a player leads or lags."""


@dataclass(frozen=True, kw_only=True)
class Context:
    """A measured take, as the rules ask about it. Rows are numbered as in the match: a target note's own
    number comes first, then those of take notes that belong to none."""

    part: Part
    take: Take
    match: Match
    measures: Measures
    kit: KitMap
    before: tuple[Standing, ...] = ()
    """The player's takes before this one, the last first."""
    others: tuple[tuple[str, Imprint], ...] = ()
    """Takes of others, each with whose it is."""
    pace: tuple[float, float] | None = None
    """Of a free exercise without a click the tempos at the beginning and the end, where they bend."""
    free: FreeFacts | None = None
    in_time: float = 1.0
    ending: Ending = Ending.STOPPED
    recorded: Take
    """As it came; `take` is without an even bend of its tempo."""

    @cached_property
    def links(self) -> list[Pair]:
        """Pairs of a written and a played note."""
        return self.match.links

    @cached_property
    def linked(self) -> Ints:
        """Target notes of the links: their rows, too."""
        return np.array([p.target for p in self.links], dtype=np.int64)

    @cached_property
    def pulse_ms(self) -> Floats:
        """Of each link its deviation from the player's own pulse, which may bend."""
        deviation = np.array([self.measures.notes[i].deviation_ms for i in self.linked], dtype=np.float64)
        shaped = shaped_ms(self.part, self.linked, deviation, kit=self.kit)
        quarter = self.part.onset_ticks[self.linked] / TICKS_PER_QUARTER
        return from_pulse(quarter, deviation - shaped) + shaped

    @cached_property
    def click_distance(self) -> ClickDistance:
        """Of each link how far from the click the player stands."""
        on_click = np.array([self.measures.notes[i].on_click_ms for i in self.linked], dtype=np.float64)
        quarter = self.part.onset_ticks[self.linked] / TICKS_PER_QUARTER
        beat_ticks = np.array([bar.meter.beat_ticks for bar in self.part.bars])
        quarters_a_beat = beat_ticks[self.part.bar_index_of_note[self.linked]] / TICKS_PER_QUARTER
        return click_distance(
            bar_places(self.part, self.linked),
            on_click - self.pulse_ms,
            60_000.0 / self.part.tempos.bpms(quarter) * quarters_a_beat,
            breaks=np.searchsorted(self.linked, [s.target for s in self.match.time_base.slips]).tolist(),
        )

    @cached_property
    def off_click_beats(self) -> float | None:
        """By how much all of the take is off the click, in beats, where that is too much for a lead or a lag."""
        bias = self.measures.timing.bias_ms.value
        if bias is None or not self.match.time_base.pace.is_click:
            return None
        beat_ms = (
            60_000.0 / self.part.tempos.first_bpm * self.part.meters.first.beat_ticks / TICKS_PER_QUARTER
        )
        return bias / beat_ms if abs(bias) >= OFF_CLICK_BEATS * beat_ms else None

    @cached_property
    def steady(self) -> np.ndarray:
        """Of each link its deviation from the player's own time, lead or lag taken off; ms."""
        return self.measures.timing.steady_ms

    @cached_property
    def causes(self) -> Causes:
        """What one lane, one hand or rolled chords explain of it."""
        bias = self.measures.timing.bias_ms.value or 0.0
        return causes_of(self.part, self.linked, self.steady, bias, kit=self.kit)

    @cached_property
    def rest(self) -> np.ndarray:
        """Of each link what of `steady` they leave; ms."""
        return self.causes.rest_ms

    @cached_property
    def left_over(self) -> list[tuple[int, Pair]]:
        """Rows of take notes that belong to no target, with their numbers."""
        first = len(self.part.notes)
        return list(enumerate(self.match.pairs[first:], start=first))

    @cached_property
    def copied(self) -> int | None:
        """How many semitones from nearly every note its copy is, where a set-up sends notes twice; None where it does not."""
        if len(self.left_over) < MIN_COPIED * len(self.take.notes):
            return None
        return copied_by(self.part, self.take)

    def bar_of(self, target: int) -> int:
        """Return the index of the bar of a target note."""
        return int(self.part.bar_of_note[target])

    def lane(self, target: int) -> str:
        """Return the name of the lane of a target note."""
        return self.part.lane_name(self.part.notes[target].pitch, self.kit)

    def whole(self) -> tuple[int, int]:
        """Return the numbers of the first and the last bar of the part."""
        return (self.part.first_bar, self.part.last_bar)

    def in_order(self, rows: Iterable[int]) -> tuple[int, ...]:
        """Return rows as a finding keeps them: plain numbers, in order."""
        return tuple(sorted(map(int, rows)))

    def bars_of(self, rows: Iterable[int]) -> tuple[int, int] | None:
        """Return the first and the last bar of the target notes among some rows; None where none is among them."""
        bars = [self.bar_of(row) for row in rows if row < len(self.part.notes)]
        return (min(bars), max(bars)) if bars else None
