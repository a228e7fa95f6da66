"""Ear notes about time."""

from collections.abc import Iterator

import numpy as np

from ear.findings.context import Context
from ear.findings.finding import Finding, Value
from ear.matching.outcome import SlipKind
from ear.measuring.figures import robust_by_group
from ear.measuring.measures import PlaceProfile
from ear.units import PITCH_MAX

LEAD_FROM_MS = 20.0
"""A constant lead or lag below this is nobody's habit: ears and set-ups vary as much."""
DRIFT_FROM_MS_PER_BAR = 4.0
DRIFT_FROM_MS_IN_ALL = 60.0
PLACE_FROM_MS = 18.0
PLACE_LEAST_NOTES = 4
PLACE_OF_SPREAD = 0.8
"""A place is told apart if its median is off by this many of its own spreads, too."""
PLACES_TOLD = 2
SWUNG_FROM = 1.3
"""Ratio of a beat's parts from which it is swung."""
STRAIGHT_BELOW = 0.5
DEEP_ABOVE = 1.35
HAND_FROM_MS = 22.0
ROLLED_FROM_MS = 35.0
ROLLED_SHARE = 0.3
"""Of the spread: notes so far from the middle of their chord are those that the rolling moved."""
UNSTEADY_FROM_MS = 10.0
"""Steadiness that is worth a word where it costs enough."""
UNSTEADY_BESIDE_FROM_MS = 22.0
"""The same for who plays beside the click: what costs there is his tempo."""
PASSAGE_LEAST_NOTES = 4
DOUBTFUL_BELOW = 0.5
"""So surely in time a take is to be, or it is told that no pulse is heard."""


def _explained(deviation: np.ndarray, cause: np.ndarray | float) -> np.ndarray:
    """Of deviations, those that a cause explains by half or more."""
    found: np.ndarray = np.abs(deviation - cause) <= np.abs(cause)
    return found


def lead_or_lag(c: Context) -> Iterator[Finding]:
    """Constantly ahead of the click, or behind it."""
    bias = c.measures.timing.bias_ms.value
    if bias is None or abs(bias) < LEAD_FROM_MS:
        return
    yield c.finding(
        "lead" if bias < 0 else "lag",
        size=bias, unit="ms", bars=c.whole(), rows=c.linked[_explained(c.steady + bias, bias)].tolist(),
        values={"size": bias},
    )  # fmt: skip


def drift(c: Context) -> Iterator[Finding]:
    """Faster or slower from bar to bar."""
    rate = c.measures.timing.drift_ms_per_bar.value
    if rate is None or not c.links:
        return
    bars = c.part.bar_of_note[c.linked]
    in_all = rate * int(bars[-1] - bars[0])
    if abs(rate) < DRIFT_FROM_MS_PER_BAR or abs(in_all) < DRIFT_FROM_MS_IN_ALL:
        return
    bar_ms = 60_000.0 * c.part.meters.first.bar_quarters / c.part.tempos.first_bpm
    away = rate * (bars - np.median(bars))
    yield c.finding(
        "rushing" if rate < 0 else "dragging",
        size=rate, unit="ms per bar", bars=(int(bars[0]), int(bars[-1])),
        rows=c.linked[_explained(c.steady, away)].tolist(),
        values={
            "rate": rate, "bpm": c.part.tempos.first_bpm / (1.0 + rate / bar_ms),
            "click": c.part.tempos.first_bpm,
        },
    )  # fmt: skip


def no_time(c: Context) -> Iterator[Finding]:
    """No more in time than notes at random are."""
    if c.in_time < DOUBTFUL_BELOW and c.links:
        yield c.finding(
            "no_pulse", size=c.in_time, unit="share", bars=c.whole(), rows=c.linked.tolist(), values={}
        )  # fmt: skip


def slips(c: Context) -> Iterator[Finding]:
    """Places where time was lost, won or jumped over."""
    for slip in c.match.time_base.slips:
        bar = c.part.bar_holding(slip.target)
        tick = c.part.notes[slip.target].onset_tick - bar.start_tick
        beats = abs(slip.quarters) * 480 / bar.meter.beat_ticks
        rows = [slip.target]
        if slip.kind in (SlipKind.RESTART, SlipKind.REPEAT_ADDED):
            rows += [n for n, p in c.left_over if p.is_abandoned]
        yield c.finding(
            slip.kind.value, size=slip.quarters, unit="quarters", rows=rows, quarter=slip.quarter,
            bars=(bar.number, bar.number),
            values={"beats": round(beats, 2), "bar": bar.number, **c.place(tick, bar)},
        )  # fmt: skip


def lanes(c: Context) -> Iterator[Finding]:
    """A lane of the kit that always comes early or late against the others."""
    for profile in c.measures.timing.by_lane:
        if not _stands_apart(profile.median_ms, profile.spread_ms, profile.count):
            continue
        yield c.finding(
            "lane_early" if profile.median_ms < 0 else "lane_late",
            size=profile.median_ms, unit="ms", place=str(profile.place),
            rows=[i for i in c.linked.tolist() if c.lane(i) == profile.place],
            values={"lane": str(profile.place), "size": profile.median_ms},
        )  # fmt: skip


def _stands_apart(median_ms: float, spread_ms: float, count: int) -> bool:
    return count >= PLACE_LEAST_NOTES and abs(median_ms) >= max(PLACE_FROM_MS, PLACE_OF_SPREAD * spread_ms)


def places(c: Context) -> Iterator[Finding]:
    """A place in the bar, for drums together with its lane, that always comes early or late."""
    if not c.links:
        return
    told = {f.place for f in lanes(c)}
    tick = c.part.ticks_into_bar[c.linked]
    has_lanes = c.part.instrument.has_lanes
    lane = c.kit.folds[c.part.pitches[c.linked]] if has_lanes else np.zeros_like(tick)
    place = tick * (PITCH_MAX + 1) + lane
    groups = robust_by_group(place, c.steady)
    found: list[tuple[float, int, str | None]] = []
    for number, count, median, spread in zip(
        groups.group.tolist(), groups.count.tolist(), groups.median.tolist(), groups.spread.tolist(), strict=True
    ):  # fmt: skip
        name = c.part.lane_name(number % (PITCH_MAX + 1), c.kit) if has_lanes else None
        if _stands_apart(median, spread, count) and (name is None or name not in told):
            found.append((median, number, name))
    for median, number, name in sorted(found, key=lambda row: -abs(row[0]))[:PLACES_TOLD]:
        rows = c.linked[place == number].tolist()
        values: dict[str, Value] = {"size": median, "count": len(rows)}
        if name:
            values["lane"] = name
        yield c.finding(
            "place_early" if median < 0 else "place_late",
            size=median, unit="ms", rows=rows,
            values={**values, **c.place(number // (PITCH_MAX + 1), c.part.bar_holding(rows[0]))},
        )  # fmt: skip


def passages(c: Context) -> Iterator[Finding]:
    """Bars in a row that run ahead of, or fall behind, the rest of the take."""
    bars = [p for p in c.measures.timing.by_bar if p.count >= 2]
    runs: list[list[PlaceProfile]] = []
    for profile in sorted(bars, key=lambda p: int(str(p.place))):
        if abs(profile.median_ms) <= PLACE_FROM_MS:
            continue
        follows = runs and int(str(runs[-1][-1].place)) + 1 == profile.place
        if follows and (runs[-1][0].median_ms > 0) == (profile.median_ms > 0):
            runs[-1].append(profile)
        else:
            runs.append([profile])
    of_bar = c.part.bar_of_note[c.linked]
    for run in runs:
        at = np.isin(of_bar, [int(str(p.place)) for p in run])
        steady = c.steady[at]
        if len(steady) < PASSAGE_LEAST_NOTES:
            continue
        middle = float(np.median(steady))
        yield c.finding(
            "passage_early" if middle < 0 else "passage_late",
            size=middle, unit="ms", rows=c.linked[at].tolist(),
            values={"size": middle, "most": float(np.abs(steady).max())},
        )  # fmt: skip


def swing(c: Context) -> Iterator[Finding]:
    """Off-beats straighter or more swung than written."""
    written, played = c.measures.feel.target_swing_ratio.value, c.measures.feel.swing_ratio.value
    if written is None or played is None:
        return
    if written >= SWUNG_FROM and played < 1 + STRAIGHT_BELOW * (written - 1):
        code = "swing_straight"
    elif written >= SWUNG_FROM and played > DEEP_ABOVE * written:
        code = "swing_deep"
    elif written < SWUNG_FROM and played >= SWUNG_FROM:
        code = "swung"
    else:
        return
    off_beat = c.part.ticks_into_bar[c.linked] % c.part.meters.first.beat_ticks != 0
    yield c.finding(
        code, size=played, unit="ratio", bars=c.whole(), rows=c.linked[off_beat].tolist(),
        values={"played_ratio": played, "written_ratio": written},
    )  # fmt: skip


def hands(c: Context) -> Iterator[Finding]:
    """One hand before the other."""
    by = {str(p.place): p for p in c.measures.timing.by_hand if p.count >= PLACE_LEAST_NOTES}
    if len(by) < 2:
        return
    gap = by["left"].median_ms - by["right"].median_ms
    if abs(gap) < HAND_FROM_MS:
        return
    late = "left" if gap > 0 else "right"
    yield c.finding(
        "hand_late", size=abs(gap), unit="ms", place=f"{late} hand",
        rows=[i for i in c.linked.tolist() if c.part.notes[i].hand == late],
        values={"late": late, "other": "right" if late == "left" else "left", "size": gap},
    )  # fmt: skip


def rolled_chords(c: Context) -> Iterator[Finding]:
    """Notes of a chord one after the other."""
    spread = c.measures.timing.chord_spread_ms.value
    if spread is None or spread < ROLLED_FROM_MS or not c.part.instrument.has_key:
        return
    onsets = c.part.onset_ticks[c.linked]
    _, number, count = np.unique(onsets, return_inverse=True, return_counts=True)
    middle = np.bincount(number, c.steady) / count
    rolled = (count[number] > 1) & (np.abs(c.steady - middle[number]) >= ROLLED_SHARE * spread)
    yield c.finding(
        "rolled_chords", size=spread, unit="ms", bars=c.whole(), rows=c.linked[rolled].tolist(),
        values={"size": spread},
    )  # fmt: skip


def unsteady(c: Context) -> Iterator[Finding]:
    """Scattered about the player's own time."""
    spread = c.measures.timing.spread_ms.value
    least = UNSTEADY_FROM_MS if c.match.time_base.pace.is_click else UNSTEADY_BESIDE_FROM_MS
    if spread is not None and spread >= least:
        yield c.finding(
            "unsteady", size=spread, unit="ms", bars=c.whole(), rows=c.linked.tolist(), values={"size": spread}
        )  # fmt: skip


RULES = (
    lead_or_lag,
    drift,
    no_time,
    slips,
    lanes,
    places,
    passages,
    swing,
    hands,
    rolled_chords,
    unsteady,
)
