"""Lead or lag, steadiness, drift, and where in the music they sit."""

from collections.abc import Callable

import numpy as np

from ear.matching.outcome import Match
from ear.measuring.figures import (
    Figure,
    Floats,
    Ints,
    WhyNot,
    figure,
    no_figure,
    robust_by_group,
    steadiness,
    theil_sen,
)  # fmt: skip
from ear.measuring.linked import Linked, bar_places
from ear.measuring.measures import PlaceProfile, Timing
from ear.measuring.pulse import shaped_ms
from ear.notes import HANDS, Hand, KitMap, Part

MIN_FOR_SPREAD = 4
"""Notes below which a spread would say nothing."""
MIN_BARS_FOR_DRIFT = 2
SMALL_MIDDLE, SMALL_LINE, SMALL_BEND = 0.9, 1.85, 2.0
"""How few notes hide their spread, by what is taken off before; see `steadiness`."""
PULSE_BEND = 2
"""Degree of the line that follows a pulse of the player's own."""


def measure_timing(
    part: Part, match: Match, linked: Linked, *, kit: KitMap, has_click: bool = True
) -> Timing:
    """Measure lead or lag, spread and drift in ms by robust statistics (medians), in all and by place."""
    nothing = WhyNot.NO_NOTES
    d = linked.deviation_ms
    right = ~linked.is_wrong
    ratio = match.time_base.pace.ratio(part.tempos)
    beats = d - shaped_ms(part, linked.target, d, kit=kit)
    bias = float(np.median(beats[right] if right.any() else beats)) if len(d) else 0.0
    bar = bar_places(part, linked.target)
    drift = _drift(bar, d) if len(d) else no_figure(nothing)
    flat = d - bias - (drift.value or 0.0) * (bar - np.median(bar)) if len(d) else d
    steady = d - bias
    small = SMALL_MIDDLE if drift.value is None else SMALL_LINE
    if not has_click and len(d):
        # The pulse is the player's own and may bend slowly: evenness is what is left.
        degree = min(PULSE_BEND, len(set(linked.quarter.tolist())) - 1)
        steady = d - np.polyval(np.polyfit(linked.quarter, d, degree), linked.quarter)
        flat = steady
        drift = no_figure(WhyNot.NO_CLICK)
        small = SMALL_BEND
    return Timing(
        bias_ms=_bias(bias, d, has_click=has_click),
        spread_ms=(
            figure(steadiness(flat, small=small)) if len(d) >= MIN_FOR_SPREAD else no_figure(WhyNot.FEW_NOTES)
        ),
        drift_ms_per_bar=drift,
        tempo_ratio=ratio,
        played_bpm=part.tempos.first_bpm * ratio,
        chord_spread_ms=_chord_spread(linked),
        steady_ms=steady,
        by_tick=_profile(part.ticks_into_bar[linked.target], steady, int),
        by_lane=(
            _profile(kit.folds[part.pitches[linked.target]], steady, lambda pitch: part.lane_name(pitch, kit))
            if part.instrument.has_lanes
            else ()
        ),
        by_hand=_profile(part.hand_numbers[linked.target], steady, HANDS.__getitem__),
        by_bar=_profile(part.bar_of_note[linked.target], steady, int),
    )


def _bias(bias: float, d: Floats, *, has_click: bool) -> Figure:
    if not has_click:
        return no_figure(WhyNot.NO_CLICK)
    return figure(bias) if len(d) else no_figure(WhyNot.NO_NOTES)


def _drift(bar: Floats, d: Floats) -> Figure:
    if float(bar.max() - bar.min()) < MIN_BARS_FOR_DRIFT:
        return no_figure(WhyNot.FEW_BARS)
    return figure(theil_sen(bar, d))


def _chord_spread(linked: Linked) -> Figure:
    if not len(linked):
        return no_figure(WhyNot.NO_NOTES)
    _, moment, count = np.unique(linked.quarter, return_inverse=True, return_counts=True)
    if not (count > 1).any():
        return no_figure(WhyNot.NO_CHORDS)
    first = np.full(len(count), np.inf)
    last = np.full(len(count), -np.inf)
    np.minimum.at(first, moment, linked.take_s)
    np.maximum.at(last, moment, linked.take_s)
    return figure(1000.0 * float(np.median((last - first)[count > 1])))


def _profile(
    places: Ints, steady: Floats, name: Callable[[int], int | str | Hand | None]
) -> tuple[PlaceProfile, ...]:
    """One row for each place that occurs, ascending; a place without a name is none."""
    groups = robust_by_group(places, steady)
    rows = zip(
        map(name, groups.group.tolist()),
        groups.count.tolist(),
        groups.median.tolist(),
        groups.spread.tolist(),
        strict=True,
    )
    return tuple(
        PlaceProfile(place=place, count=count, median_ms=middle, spread_ms=spread)
        for place, count, middle, spread in rows
        if place is not None
    )
