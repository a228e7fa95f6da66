"""Measure a matched take."""

from collections import Counter

import numpy as np

from ear.matching.outcome import Match, Outcome, Pair
from ear.measuring.dynamics import measure_dynamics
from ear.measuring.feel import measure_feel
from ear.measuring.figures import Figure, WhyNot, figure, no_figure
from ear.measuring.grid import grid_step
from ear.measuring.linked import Linked, linked_notes
from ear.measuring.measures import Counts, Measures, NoteMeasure
from ear.measuring.pedal import measure_pedal
from ear.measuring.tempo import bar_tempos, tempo_stretches
from ear.measuring.timing import measure_timing
from ear.notes import STANDARD_KIT, KitMap, Part, Take

COUNT_IN_S = 0.2
"""So long before bar 1 a note is one of the count-in."""
QUANTISED_FROM = 16
"""Notes below which nothing is said of a machine's hand."""
QUANTISED_SHARE = 0.95
QUANTISED_MS = 1.5
"""About a tick of the recording: nobody's hand is this even over many notes."""


def measure(
    part: Part, take: Take, match: Match, *, kit: KitMap = STANDARD_KIT, has_click: bool = True
) -> Measures:
    """Measure everything about a take. An empty take gives reasons instead of figures."""
    linked = linked_notes(part, take, match)
    grid_ticks = grid_step(part)
    return Measures(
        notes=_note_measures(match, linked),
        counts=_counts(part, take, match),
        timing=measure_timing(part, match, linked, kit=kit, has_click=has_click),
        dynamics=measure_dynamics(part, take, linked, kit=kit),
        feel=measure_feel(part, take, linked, grid_ticks=grid_ticks),
        length_ratio=_length_ratio(part, linked),
        grid_ticks=grid_ticks,
        unplayed_bars_at_end=_unplayed_bars_at_end(part, linked),
        looks_quantised=_looks_quantised(linked),
        pedal=measure_pedal(part, take, match, linked),
        tempo=tempo_stretches(part, match),
        bar_tempos=bar_tempos(part, match, linked),
        has_click=has_click,
    )


def is_in_count_in(pair: Pair, take: Take) -> bool:
    """Return whether a note that belongs to no target and no ornament was played before the beginning."""
    if pair.outcome is not Outcome.EXTRA or pair.take is None or pair.near is not None or pair.is_abandoned:
        return False
    return take.notes[pair.take].onset_s < -COUNT_IN_S


def _note_measures(match: Match, linked: Linked) -> tuple[NoteMeasure, ...]:
    ratios = [None if r != r else r for r in linked.length_ratio.tolist()]
    differences = (linked.take_velocity - linked.target_velocity).tolist()
    rows = map(
        NoteMeasure._make,
        zip(linked.deviation_ms.tolist(), linked.on_click_ms.tolist(), differences, ratios, strict=True),
    )
    notes = [NoteMeasure()] * len(match.pairs)
    # The rows of the target's notes come first, in order.
    for i, note in zip(linked.target.tolist(), rows, strict=True):
        notes[i] = note
    return tuple(notes)


def _counts(part: Part, take: Take, match: Match) -> Counts:
    count = Counter(p.outcome for p in match.pairs)
    left_over = match.pairs[len(part.notes) :]
    grazes = sum(p.is_graze for p in left_over)
    abandoned = sum(p.is_abandoned for p in left_over)
    ornaments = sum(p.ornament is not None for p in left_over)
    overlaid = sum(p.is_overlaid for p in left_over)
    put_right = sum(p.is_put_right for p in left_over)
    in_count_in = sum(is_in_count_in(p, take) for p in left_over)
    return Counts(
        target=len(part.notes),
        take=len(take.notes),
        matched=count[Outcome.MATCHED],
        wrong_pitch=count[Outcome.WRONG_PITCH],
        missed=count[Outcome.MISSED],
        doubles=count[Outcome.DOUBLE],
        extras=count[Outcome.EXTRA] - grazes - abandoned - ornaments - overlaid - put_right - in_count_in,
        grazes=grazes,
        abandoned=abandoned,
        ornaments=ornaments,
        overlaid=overlaid,
        put_right=put_right,
        in_count_in=in_count_in,
    )


def _length_ratio(part: Part, linked: Linked) -> Figure:
    if not part.instrument.has_length:
        return no_figure(WhyNot.STROKES_HAVE_NO_LENGTH)
    held = linked.length_ratio[~np.isnan(linked.length_ratio)]
    if not len(held):
        return no_figure(WhyNot.ALL_PEDALLED if len(linked) else WhyNot.NO_NOTES)
    return figure(float(np.median(held)))


def _unplayed_bars_at_end(part: Part, linked: Linked) -> int:
    if not part.notes:
        return 0
    last_written = part.meters.bar_at(part.notes[-1].onset_tick).number
    if not len(linked):
        return last_written
    return last_written - part.meters.bar_at(part.notes[int(linked.target[-1])].onset_tick).number


def _looks_quantised(linked: Linked) -> bool:
    if len(linked) < QUANTISED_FROM:
        return False
    steady = linked.on_click_ms - np.median(linked.on_click_ms)
    return float(np.mean(np.abs(steady) <= QUANTISED_MS)) >= QUANTISED_SHARE
