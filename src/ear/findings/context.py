"""All that the rules look at, with the small questions that many of them ask."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ear.findings.finding import Finding, Sentence
from ear.findings.standing import Standing
from ear.marking.criteria import credit
from ear.marking.marks import Mark
from ear.marking.rubric import CriterionName
from ear.matching.outcome import Match, Pair
from ear.measuring.figures import Ints
from ear.measuring.measures import Measures
from ear.notes import Bar, KitMap, Part, Take
from ear.units import TICKS_PER_QUARTER

SIXTEENTH_WORDS = ("", "e", "and", "a")


@dataclass(frozen=True, kw_only=True)
class Context:
    """A measured and marked take, as the rules ask about it."""

    part: Part
    take: Take
    match: Match
    measures: Measures
    mark: Mark
    kit: KitMap
    before: Standing | None = None
    """The player's take before this one."""
    others: tuple[tuple[str, Take], ...] = ()
    """Takes of others, each with whose it is."""

    @cached_property
    def rows(self) -> list[tuple[Pair, float]]:
        """Linked rows with their steady deviation (bias off), in order of target."""
        return list(zip(self.match.links, self.measures.timing.steady_ms.tolist(), strict=True))

    @cached_property
    def linked(self) -> Ints:
        """Target notes of `rows`."""
        return np.array([p.target for p, _ in self.rows], dtype=np.int64)

    def bar_of(self, target: int) -> int:
        return int(self.part.bar_of_note[target])

    def bar_holding(self, target: int) -> Bar:
        return self.part.bar_holding(target)

    def weight(self, name: CriterionName) -> float:
        """Share of the total in per cent."""
        return next((c.weight for c in self.mark.criteria if c.name is name), 0.0)

    def timing_cost(self, sizes_ms: Iterable[float]) -> float:
        """Points of the total that deviations of these sizes cost."""
        sizes = np.abs(np.array(list(sizes_ms)))
        window = self.mark.window
        lost = len(sizes) - float(credit(sizes, full=window.full_ms, none=window.none_ms).sum())
        return self.weight(CriterionName.TIMING) * lost / max(1, len(self.rows))

    def notes_cost(self, weighed: float) -> float:
        """Points of the total that so many weighed notes cost."""
        return self.weight(CriterionName.NOTES) * weighed / max(1, self.measures.counts.target)

    def place_name(self, tick_in_bar: int, bar: Bar) -> str:
        """Beat 2; the “and” of 2; tick 80 of beat 3."""
        beat, rest = divmod(tick_in_bar, bar.meter.beat_ticks)
        if rest == 0:
            return f"beat {beat + 1}"
        if not bar.meter.is_compound and rest % (TICKS_PER_QUARTER // 4) == 0 and bar.meter.denominator == 4:
            return f"the “{SIXTEENTH_WORDS[rest // (TICKS_PER_QUARTER // 4)]}” of {beat + 1}"
        if bar.meter.is_compound and rest % (bar.meter.beat_ticks // 3) == 0:
            return f"quaver {rest // (bar.meter.beat_ticks // 3) + 1} of beat {beat + 1}"
        return f"{rest} ticks after beat {beat + 1}"

    def finding(
        self,
        kind: str,
        *,
        size: float,
        unit: str,
        teacher: str,
        student: str,
        figures: dict[str, str | int | float] | None = None,
        criterion: CriterionName | None = None,
        cost: float = 0.0,
        targets: Iterable[int] = (),
        takes: Iterable[int] = (),
        bars: tuple[int, int] | None = None,
        is_praise: bool = False,
        place: str | None = None,
        quarter: float | None = None,
    ) -> Finding:
        """A finding whose bars come from its notes unless they are given."""
        targets = tuple(targets)
        if bars is None and targets:
            numbers = [self.bar_of(i) for i in targets]
            bars = (min(numbers), max(numbers))
        filled: dict[str, str | int | float] = dict(figures or {})
        if bars:
            filled |= {"bar": bars[0], "last_bar": bars[1]}
            filled["bars"] = f"bar {bars[0]}" if bars[0] == bars[1] else f"bars {bars[0]} to {bars[1]}"
        return Finding(
            kind=kind,
            criterion=criterion,
            cost=cost,
            size=size,
            unit=unit,
            first_bar=bars[0] if bars else None,
            last_bar=bars[1] if bars else None,
            targets=targets,
            takes=tuple(takes),
            for_teacher=Sentence(text=teacher, figures=filled),
            for_student=Sentence(text=student, figures=filled),
            is_praise=is_praise,
            place=place,
            quarter=quarter,
        )
