"""Lead or lag, steadiness, drift, and where in the music they sit."""

from collections.abc import Hashable, Sequence
from statistics import median

import numpy as np

from ear.matching.outcome import Match
from ear.measuring.figures import (
    MAD_TO_SD,
    Figure,
    Floats,
    figure,
    no_figure,
    robust_spread,
    theil_sen,
)  # fmt: skip
from ear.measuring.linked import Ints, Linked
from ear.measuring.measures import PlaceProfile, Timing
from ear.notes import Kind, KitMap, Part

LEAST_FOR_SPREAD = 4
"""Notes below which a spread would say nothing."""
LEAST_BARS_FOR_DRIFT = 2
WITHOUT_CLICK = "recorded without a click"
PULSE_BEND = 2
"""Degree of the line that follows a pulse of the player's own."""


def measure_timing(
    part: Part, match: Match, linked: Linked, *, kit: KitMap, has_click: bool = True
) -> Timing:
    nothing = "no note was matched"
    d = linked.deviation_ms
    right = ~linked.is_wrong
    bias = float(np.median(d[right] if right.any() else d)) if len(d) else 0.0
    bar = _bar_places(part, linked.target)
    drift = _drift(bar, d) if len(d) else no_figure(nothing)
    flat = d - bias - (drift.value or 0.0) * (bar - np.median(bar)) if len(d) else d
    notes = [part.notes[i] for i in linked.target.tolist()]
    bars = part.bar_of_note[linked.target].tolist()
    starts = [part.bars[number - 1].start_tick for number in bars]
    steady = d - bias
    if not has_click and len(d):
        # The pulse is the player's own and may bend slowly: evenness is what is left.
        degree = min(PULSE_BEND, len(np.unique(linked.quarter)) - 1)
        steady = d - np.polyval(np.polyfit(linked.quarter, d, degree), linked.quarter)
        flat = steady
        drift = no_figure(WITHOUT_CLICK)
    return Timing(
        bias_ms=_bias(bias, d, has_click=has_click),
        spread_ms=(
            figure(robust_spread(flat))
            if len(d) >= LEAST_FOR_SPREAD
            else no_figure(f"fewer than {LEAST_FOR_SPREAD} notes were matched")
        ),
        drift_ms_per_bar=drift,
        tempo_ratio=match.time_base.ratio,
        played_bpm=part.tempos.first_bpm * match.time_base.ratio,
        chord_spread_ms=_chord_spread(linked),
        steady_ms=steady,
        by_tick=_profile([n.onset_tick - start for n, start in zip(notes, starts, strict=True)], steady),
        by_lane=(
            _profile([kit.lane(n.pitch).name for n in notes], steady) if part.kind is Kind.DRUMS else ()
        ),
        by_hand=_profile([n.hand for n in notes], steady),
        by_bar=_profile(bars, steady),
    )


def _bias(bias: float, d: Floats, *, has_click: bool) -> Figure:
    if not has_click:
        return no_figure(WITHOUT_CLICK)
    return figure(bias) if len(d) else no_figure("no note was matched")


def _bar_places(part: Part, target: Ints) -> Floats:
    """Places of notes as bars and a fraction, from 0 at the start of bar 1."""
    start = np.array([bar.start_tick for bar in part.bars], dtype=float)
    length = np.array([bar.meter.bar_ticks for bar in part.bars], dtype=float)
    index = part.bar_of_note[target] - 1
    onset = np.array([part.notes[i].onset_tick for i in target.tolist()], dtype=float)
    places: Floats = index + (onset - start[index]) / length[index]
    return places


def _drift(bar: Floats, d: Floats) -> Figure:
    if float(bar.max() - bar.min()) < LEAST_BARS_FOR_DRIFT:
        return no_figure(f"fewer than {LEAST_BARS_FOR_DRIFT} bars were played")
    return figure(theil_sen(bar, d))


def _chord_spread(linked: Linked) -> Figure:
    if not len(linked):
        return no_figure("no note was matched")
    _, moment, count = np.unique(linked.quarter, return_inverse=True, return_counts=True)
    if not (count > 1).any():
        return no_figure("no two notes are written together")
    first = np.full(len(count), np.inf)
    last = np.full(len(count), -np.inf)
    np.minimum.at(first, moment, linked.take_s)
    np.maximum.at(last, moment, linked.take_s)
    return figure(1000.0 * float(np.median((last - first)[count > 1])))


def _profile(places: Sequence[Hashable], steady: Floats) -> tuple[PlaceProfile, ...]:
    """One row for each place that occurs, in order of first sight; None is no place."""
    # Plain lists: most groups are small, where they are quicker than arrays.
    values = steady.tolist()
    groups: dict[Hashable, list[int]] = {}
    for k, place in enumerate(places):
        if place is not None:
            groups.setdefault(place, []).append(k)
    return tuple(
        PlaceProfile(
            place=place,  # type: ignore[arg-type]
            count=len(at),
            median_ms=(middle := median(values[k] for k in at)),
            spread_ms=MAD_TO_SD * median(abs(values[k] - middle) for k in at),
        )
        for place, at in groups.items()
    )
