"""A take by the sections of its part."""

import numpy as np

from ear.editing.sections import PlayedSection, stretches
from ear.facts.facts import RowFacts, SectionFact
from ear.matching.fit import robust_spread
from ear.matching.outcome import Outcome
from ear.measuring.figures import theil_sen
from ear.notes import Part
from ear.units import TICKS_PER_QUARTER

MIN_NOTES = 4
"""Notes below which a tempo or a spread would say nothing."""
MIN_BARS = 1.0
"""A tempo needs notes that lie so far apart."""


def by_section(part: Part, rows: RowFacts, *, has_own_tempo: bool) -> tuple[SectionFact, ...]:
    """Return figures for each section; none for a part of one section.

    `has_own_tempo` says that played tempos are known. They are not for a take whose pulse bends, which is
    measured straightened.
    """
    sections = stretches(part)
    return (
        tuple(_fact(part, rows, section, has_own_tempo=has_own_tempo) for section in sections)
        if len(sections) > 1
        else ()
    )


def _fact(part: Part, rows: RowFacts, stretch: PlayedSection, *, has_own_tempo: bool) -> SectionFact:
    bars = part.bar_of_note
    inside = (bars >= stretch.first_bar) & (bars <= stretch.last_bar)
    right = [
        (n, target)
        for n, (target, outcome) in enumerate(zip(rows.target, rows.outcome, strict=True))
        if target is not None and inside[target] and outcome is Outcome.MATCHED
    ]
    own = np.array([rows.deviation_ms[n] for n, _ in right], dtype=np.float64)
    return SectionFact(
        name=stretch.name, bars=(stretch.first_bar, stretch.last_bar), bpm=round(stretch.bpm, 2),
        notes=int(inside.sum()), right=len(right),
        bias_ms=round(float(np.median(own)), 2) if len(own) else None,
        spread_ms=round(robust_spread(own), 2) if len(own) >= MIN_NOTES else None,
        played_bpm=_played_bpm(part, rows, stretch, right) if has_own_tempo else None,
    )  # fmt: skip


def _played_bpm(
    part: Part, rows: RowFacts, stretch: PlayedSection, right: list[tuple[int, int]]
) -> float | None:
    """The slope of played over written seconds, slips joined on beats again."""
    quarter = part.onset_ticks[[target for _, target in right]] / TICKS_PER_QUARTER
    if len(right) < MIN_NOTES or quarter[-1] - quarter[0] < MIN_BARS * part.meters.first.bar_quarters:
        return None
    written_s = part.tempos.seconds(quarter)
    played_s = written_s + np.array([rows.click_ms[n] for n, _ in right], dtype=np.float64) / 1000.0
    slope = theil_sen(written_s, played_s)
    return round(stretch.bpm / slope, 2) if slope > 0 else None
