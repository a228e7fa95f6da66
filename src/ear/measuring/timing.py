"""Lead or lag, steadiness, drift, and where in the music they sit."""

from collections.abc import Hashable, Sequence

import numpy as np

from ear.matching.outcome import Match
from ear.measuring.figures import Figure, Floats, figure, no_figure, robust_spread, theil_sen
from ear.measuring.linked import Linked
from ear.measuring.measures import PlaceProfile, Timing
from ear.notes import Kind, KitMap, Part

LEAST_FOR_SPREAD = 4
"""Notes below which a spread would say nothing."""
LEAST_BARS_FOR_DRIFT = 2


def measure_timing(part: Part, match: Match, linked: Linked, *, kit: KitMap) -> Timing:
    nothing = "no note was matched"
    d = linked.deviation_ms
    right = ~linked.is_wrong
    bias = float(np.median(d[right] if right.any() else d)) if len(d) else 0.0
    bar = np.array([_bar_place(part, q) for q in linked.quarter])
    drift = _drift(bar, d) if len(d) else no_figure(nothing)
    flat = d - bias - (drift.value or 0.0) * (bar - np.median(bar)) if len(d) else d
    ticks = [part.notes[i].onset_tick for i in linked.target.tolist()]
    steady = d - bias
    return Timing(
        bias_ms=figure(bias) if len(d) else no_figure(nothing),
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
        by_tick=_profile([t - part.meters.bar_at(t).start_tick for t in ticks], steady),
        by_lane=(
            _profile([kit.lane(part.notes[i].pitch).name for i in linked.target.tolist()], steady)
            if part.kind is Kind.DRUMS
            else ()
        ),
        by_hand=_profile([part.notes[i].hand for i in linked.target.tolist()], steady),
        by_bar=_profile([part.meters.bar_at(t).number for t in ticks], steady),
    )


def _bar_place(part: Part, quarter: float) -> float:
    """A place as bars and a fraction, from 0 at the start of bar 1."""
    bar = part.meters.bar_at(quarter * 480)
    return bar.number - 1 + (quarter * 480 - bar.start_tick) / bar.meter.bar_ticks


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
    groups: dict[Hashable, list[int]] = {}
    for k, place in enumerate(places):
        if place is not None:
            groups.setdefault(place, []).append(k)
    return tuple(
        PlaceProfile(
            place=place,  # type: ignore[arg-type]
            count=len(at),
            median_ms=float(np.median(steady[at])),
            spread_ms=robust_spread(steady[at]),
        )
        for place, at in groups.items()
    )
