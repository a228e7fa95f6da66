"""The tempo that was played: in stretches, as the time base tells it, and bar by bar, as the notes show it."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ear.matching.outcome import Match
from ear.measuring.figures import Floats, theil_sen
from ear.measuring.linked import Linked
from ear.notes import Part
from ear.units import TICKS_PER_QUARTER

MIN_MOMENTS = 3
"""Moments of a bar, with the first one behind it, from which its own tempo is taken."""
EDGE_QUARTERS = 0.3
"""A stretch that begins so near to the next bar begins with it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoStretch:
    """Bars from first to last in one tempo, or in one that changes evenly; quarters a minute. `click_bpm` is the tempo
    written where it begins."""

    bars: tuple[int, int]
    first_bpm: float
    last_bpm: float
    click_bpm: float
    last_click_bpm: float
    """The one written where it ends."""

    @property
    def ratios(self) -> tuple[float, float]:
        """The tempo played over the one written, at both ends."""
        return self.first_bpm / self.click_bpm, self.last_bpm / self.last_click_bpm


@dataclass(frozen=True, slots=True, kw_only=True)
class BarTempo:
    """The tempo of one bar in quarters a minute: the click's, that of the stretch, and what its own notes show, None where
    they are too few or time jumps among them."""

    bar: int
    click_bpm: float
    stretch_bpm: float
    own_bpm: float | None


def tempo_stretches(part: Part, match: Match) -> tuple[TempoStretch, ...]:
    """Return the stretches of the player's tempo, in order; empty if nothing was found in the take."""
    if not match.links:
        return ()
    pace = match.time_base.pace
    if pace.is_steady:
        ratio, bpm = pace.stretches[0].first_ratio, part.tempos.first_bpm
        return (
            TempoStretch(
                bars=(part.first_bar, part.last_bar),
                first_bpm=bpm * ratio,
                last_bpm=bpm * ratio,
                click_bpm=bpm,
                last_click_bpm=bpm,
            ),
        )
    stretches = []
    for k, stretch in enumerate(pace.stretches):
        # A stretch that begins just before a bar line belongs to the bar after it: EDGE_QUARTERS keeps
        # rounding from adding a bar.
        at = stretch.first_quarter * TICKS_PER_QUARTER
        first = part.first_bar if k == 0 else _bar(part, stretch.first_quarter + EDGE_QUARTERS)
        last = (
            part.last_bar
            if k == len(pace.stretches) - 1
            else _bar(part, stretch.last_quarter - EDGE_QUARTERS)
        )
        click = part.tempos.bpm_at(at + 1)
        last_click = part.tempos.bpm_at(stretch.last_quarter * TICKS_PER_QUARTER - 1)
        stretches.append(
            TempoStretch(
                bars=(first, max(first, last)), first_bpm=click * stretch.first_ratio,
                last_bpm=last_click * stretch.last_ratio, click_bpm=click, last_click_bpm=last_click,
            )
        )  # fmt: skip
    return tuple(stretches)


def _bar(part: Part, quarter: float) -> int:
    return min(part.meters.bar_at(max(0.0, quarter * TICKS_PER_QUARTER)).number, part.last_bar)


def bar_tempos(part: Part, match: Match, linked: Linked) -> tuple[BarTempo, ...]:
    """Return a row for each bar from the first played to the last; empty if the player kept to the click."""
    if not len(linked) or match.time_base.pace.is_click:
        return ()
    of_note = part.bar_of_note[linked.target]
    bars = [bar for bar in part.bars if of_note[0] <= bar.number <= of_note[-1]]
    edges = np.array([bars[0].start_tick, *(bar.end_tick for bar in bars)]) / TICKS_PER_QUARTER
    paced = np.diff(match.time_base.pace.seconds(edges, part.tempos))
    moments, played = _moments(linked)
    jumps = [slip.quarter for slip in match.time_base.slips]
    return tuple(
        BarTempo(
            bar=bar.number,
            # The click's tempo may change inside the bar; the one at its start is what the page shows.
            click_bpm=part.tempos.bpm_at(bar.start_tick),
            stretch_bpm=60.0 * (last - first) / seconds,
            own_bpm=_own_bpm(moments, played, first, last, jumps=jumps),
        )
        for bar, (first, last), seconds in zip(bars, pairwise(edges.tolist()), paced.tolist(), strict=True)
    )


def _moments(linked: Linked) -> tuple[Floats, Floats]:
    """Quarters of the moments that were played, and the middle second of each."""
    quarter, begins = np.unique(linked.quarter, return_index=True)
    ends = [*begins[1:].tolist(), len(linked)]
    middle = [float(np.median(linked.take_s[a:b])) for a, b in zip(begins.tolist(), ends, strict=True)]
    return quarter, np.array(middle)


def _own_bpm(
    moments: Floats, played: Floats, first: float, last: float, *, jumps: list[float]
) -> float | None:
    inside = (moments >= first - 1e-6) & (moments <= last + 1e-6)
    # A jump inside the bar would look like a sudden change of tempo.
    if inside.sum() < MIN_MOMENTS or any(first + 1e-6 < jump <= last + 1e-6 for jump in jumps):
        return None
    # The median slope ignores single notes that are early or late, which a mean would count as tempo.
    slope = theil_sen(moments[inside], played[inside])
    return 60.0 / slope if slope > 0 else None
