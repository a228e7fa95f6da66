"""Ear notes about time."""

from collections.abc import Iterator

import numpy as np

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.marking.criteria import SLIP_COSTS, TEMPO_COST_MOST, TEMPO_COST_PER_PERCENT
from ear.marking.rubric import CriterionName
from ear.matching.outcome import SlipKind
from ear.measuring.figures import robust_by_group
from ear.measuring.measures import PlaceProfile
from ear.units import PITCH_MAX

TIMING, FLOW = CriterionName.TIMING, CriterionName.FLOW
LEAD_FROM_MS = 20.0
"""A constant lead or lag below this is nobody's habit: ears and set-ups vary as much."""
DRIFT_FROM_MS_PER_BAR = 4.0
DRIFT_FROM_MS_IN_ALL = 60.0
PLACE_FROM_MS = 18.0
PLACE_LEAST_NOTES = 4
PLACE_OF_SPREAD = 0.8
"""A place is told apart if its median is off by this many of its own spreads, too."""
SWUNG_FROM = 1.3
"""Ratio of a beat's parts from which it is swung."""
STRAIGHT_BELOW = 0.5
DEEP_ABOVE = 1.35
HAND_FROM_MS = 22.0
ROLLED_FROM_MS = 35.0
UNSTEADY_OF_FULL = 0.9
"""Steadiness worse than this share of the level's full window is worth a word."""
RUSH_LEAST_NOTES = 4


def lead_or_lag(c: Context) -> Iterator[Finding]:
    bias = c.measures.timing.bias_ms.value
    if bias is None or abs(bias) < LEAD_FROM_MS:
        return
    early = bias < 0
    cost = c.timing_cost([bias] * len(c.rows)) if abs(bias) > 30 else 0.0
    yield c.finding(
        "lead" if early else "lag",
        size=bias, unit="ms", criterion=TIMING, cost=cost,
        figures={"size": round(abs(bias))},
        bars=(1, len(c.part.bars)),
        teacher=("Constantly early by {size} ms, all through." if early
                 else "Constantly late by {size} ms, all through."),
        student=("All your notes come about {size} ms before the click. Let the click land first, then play into it."
                 if early else
                 "All your notes come about {size} ms after the click. Hear the beat coming and aim ahead; "
                 "if it feels right to you, measure the latency of your set-up again."),
    )  # fmt: skip


def drift(c: Context) -> Iterator[Finding]:
    rate = c.measures.timing.drift_ms_per_bar.value
    if rate is None or not c.rows:
        return
    first, last = c.bar_of(c.rows[0][0].target or 0), c.bar_of(c.rows[-1][0].target or 0)
    in_all = rate * (last - first)
    if abs(rate) < DRIFT_FROM_MS_PER_BAR or abs(in_all) < DRIFT_FROM_MS_IN_ALL:
        return
    bar_ms = 60_000.0 * c.part.meters.first.bar_quarters / c.part.tempos.first_bpm
    bpm = c.part.tempos.first_bpm * (1.0 / (1.0 + rate / bar_ms))
    middle = (len(c.rows) - 1) / 2
    cost = c.timing_cost(in_all * (k - middle) / max(1.0, 2 * middle) for k in range(len(c.rows)))
    rushing = rate < 0
    yield c.finding(
        "rushing" if rushing else "dragging",
        size=rate, unit="ms per bar", criterion=TIMING, cost=cost, bars=(first, last),
        figures={"rate": round(abs(rate)), "bpm": round(bpm, 1), "click": f"{c.part.tempos.first_bpm:g}"},
        teacher=("Rushes: {rate} ms earlier with every bar, {bpm} against the click's {click}." if rushing
                 else "Drags: {rate} ms later with every bar, {bpm} against the click's {click}."),
        student=("You speed up little by little. Turn the click up and play softer than it." if rushing
                 else "You slow down little by little. Count aloud with the click and keep the beat going through long notes."),
    )  # fmt: skip


def own_tempo(c: Context) -> Iterator[Finding]:
    ratio = c.measures.timing.tempo_ratio
    if ratio == 1.0 or not c.measures.has_click:
        return
    off = abs(ratio - 1.0) * 100
    yield c.finding(
        "own_tempo", size=ratio, unit="ratio", criterion=FLOW,
        cost=c.weight(FLOW) / 100 * min(TEMPO_COST_MOST, TEMPO_COST_PER_PERCENT * off),
        bars=(1, len(c.part.bars)),
        figures={"bpm": round(c.measures.timing.played_bpm), "click": f"{c.part.tempos.first_bpm:g}"},
        teacher="Played at {bpm}, not with the click at {click}; timing is measured against the player's own tempo.",
        student="You played at {bpm} while the click was at {click}. Wait for two bars of click, move with it, then begin.",
    )  # fmt: skip


SLIP_SENTENCES = {
    SlipKind.LATE_START: (
        "Starts {beats} beats late, then keeps time.",
        "You came in {beats} beats late. Count the whole count-in aloud: the first note is the very next “one”.",
    ),
    SlipKind.EARLY_START: (
        "Starts {beats} beats early, then keeps time.",
        "You came in {beats} beats early. Count the whole count-in aloud before you play.",
    ),
    SlipKind.SLIP: (
        "Hesitates before {where}; from there on {beats} beats later.",
        "You stopped to think before {where}. Practise the step into it slowly, then with the bar before.",
    ),
    SlipKind.RECOVERY: (
        "Finds back to the click at {where}, {beats} beats caught up.",
        "At {where} you found the click again. Well heard.",
    ),
    SlipKind.RESTART: (
        "Breaks off and starts again from {where}.",
        "You went back to {where}. When something goes wrong, keep going with the click and join in again.",
    ),
    SlipKind.SKIP: (
        "Leaves out {beats} beats before {where}.",
        "You jumped to {where} and left out {beats} beats. Read ahead to where the line goes on.",
    ),
    SlipKind.SKIP_BAR: (
        "Leaves out the music before {where} ({beats} beats).",
        "You jumped to {where}. Play the bar before it, then the join, until it feels like one line.",
    ),
}  # fmt: skip


def slips(c: Context) -> Iterator[Finding]:
    for slip in c.match.time_base.slips:
        teacher, student = SLIP_SENTENCES[slip.kind]
        bar = c.bar_holding(slip.target)
        tick = c.part.notes[slip.target].onset_tick - bar.start_tick
        beats = abs(slip.quarters) * 480 / bar.meter.beat_ticks
        if slip.kind is SlipKind.RESTART:
            takes = [p.take for p in c.match.pairs if p.is_abandoned and p.take is not None]
        else:
            takes = []
        yield c.finding(
            slip.kind.value, size=slip.quarters, unit="quarters", criterion=FLOW,
            cost=c.weight(FLOW) / 100 * SLIP_COSTS[slip.kind],
            targets=[slip.target], takes=takes, quarter=slip.quarter,
            figures={"beats": f"{beats:.2g}", "where": f"bar {bar.number}, {c.place_name(tick, bar)}"},
            teacher=teacher, student=student, is_praise=False,
        )  # fmt: skip


def lanes(c: Context) -> Iterator[Finding]:
    """A lane of the kit that always comes early or late against the others."""
    for profile in c.measures.timing.by_lane:
        if not _stands_apart(profile.median_ms, profile.spread_ms, profile.count):
            continue
        early = profile.median_ms < 0
        at = [
            k
            for k, (p, _) in enumerate(c.rows)
            if c.kit.lane(c.part.notes[p.target or 0].pitch).name == profile.place
        ]
        yield c.finding(
            "lane_early" if early else "lane_late",
            size=profile.median_ms, unit="ms", criterion=TIMING,
            cost=c.timing_cost(c.measures.timing.steady_ms[at]),
            targets=[c.rows[k][0].target or 0 for k in at], place=str(profile.place),
            figures={"lane": str(profile.place), "size": round(abs(profile.median_ms)), "count": len(at)},
            teacher=("The {lane} is {size} ms ahead of the rest, all through." if early
                     else "The {lane} is {size} ms behind the rest, all through."),
            student=("Your {lane} comes ahead of the rest. Play it together with the click alone, then add the others." if early
                     else "Your {lane} comes behind the rest. Lift that stick or foot sooner; play it with the click alone first."),
        )  # fmt: skip


def _stands_apart(median_ms: float, spread_ms: float, count: int) -> bool:
    return count >= PLACE_LEAST_NOTES and abs(median_ms) >= max(PLACE_FROM_MS, PLACE_OF_SPREAD * spread_ms)


def places(c: Context) -> Iterator[Finding]:
    """A place in the bar, for drums together with its lane, that always comes early or late."""
    told = {f.place for f in lanes(c)}
    if not c.rows:
        return
    steady = c.measures.timing.steady_ms
    tick = c.part.ticks_into_bar[c.linked]
    is_drums = c.part.kind == "drums"
    lane = c.kit.folds[c.part.pitches[c.linked]] if is_drums else np.zeros_like(tick)
    place = tick * (PITCH_MAX + 1) + lane
    groups = robust_by_group(place, steady)
    found: list[tuple[float, int, str | None, list[int]]] = []
    for number, count, median, spread in zip(
        groups.group.tolist(),
        groups.count.tolist(),
        groups.median.tolist(),
        groups.spread.tolist(),
        strict=True,
    ):
        if not _stands_apart(median, spread, count):
            continue
        name = c.kit.lane(number % (PITCH_MAX + 1)).name if is_drums else None
        if name is None or name not in told:
            at = np.nonzero(place == number)[0].tolist()
            found.append((median, number // (PITCH_MAX + 1), name, at))
    for median, place_tick, place_lane, at in sorted(found, key=lambda row: -abs(row[0]))[:2]:
        bar = c.bar_holding(c.rows[at[0]][0].target or 0)
        early = median < 0
        what = c.place_name(place_tick, bar)
        if place_lane:
            what = f"the {place_lane} on {what}"
        yield c.finding(
            "place_early" if early else "place_late",
            size=median, unit="ms", criterion=TIMING, cost=c.timing_cost(steady[at]),
            targets=[c.rows[k][0].target or 0 for k in at], place=what,
            figures={"what": what, "What": what[0].upper() + what[1:], "size": round(abs(median)), "count": len(at)},
            teacher=("{What} comes {size} ms early, {count} times." if early
                     else "{What} comes {size} ms late, {count} times."),
            student=("{What} comes early each time. Say it aloud while you play and wait for it." if early
                     else "{What} comes late each time. Lift sooner, so that you are there in time."),
        )  # fmt: skip


def passages(c: Context) -> Iterator[Finding]:
    """Bars in a row that run ahead of, or fall behind, the rest of the take."""
    window = c.mark.window
    bars = [p for p in c.measures.timing.by_bar if p.count >= 2]
    runs: list[list[PlaceProfile]] = []
    for profile in sorted(bars, key=lambda p: int(str(p.place))):
        off = abs(profile.median_ms) > max(window.full_ms, PLACE_FROM_MS)
        sign = profile.median_ms > 0
        if (
            off
            and runs
            and int(str(runs[-1][-1].place)) + 1 == profile.place
            and (runs[-1][0].median_ms > 0) == sign
        ):
            runs[-1].append(profile)
        elif off:
            runs.append([profile])
    for run in runs:
        numbers = {p.place for p in run}
        at = [k for k, (p, _) in enumerate(c.rows) if c.bar_of(p.target or 0) in numbers]
        if len(at) < RUSH_LEAST_NOTES:
            continue
        steady = c.measures.timing.steady_ms[at]
        most = float(steady[np.argmax(np.abs(steady))])
        early = float(np.median(steady)) < 0
        yield c.finding(
            "passage_early" if early else "passage_late",
            size=float(np.median(steady)), unit="ms", criterion=TIMING, cost=c.timing_cost(steady),
            targets=[c.rows[k][0].target or 0 for k in at],
            figures={"most": round(abs(most)), "size": round(abs(float(np.median(steady))))},
            teacher=("Runs ahead in {bars}, {size} ms early in the middle, {most} at most." if early
                     else "Falls behind in {bars}, {size} ms late in the middle, {most} at most."),
            student=("In {bars} you run ahead of the click. Loop that place slowly and leave room." if early
                     else "In {bars} you fall behind the click. Loop that place slowly until the hands know the way."),
        )  # fmt: skip


def swing(c: Context) -> Iterator[Finding]:
    written, played = c.measures.feel.target_swing_ratio.value, c.measures.feel.swing_ratio.value
    if written is None or played is None:
        return
    if written >= SWUNG_FROM and played < 1 + STRAIGHT_BELOW * (written - 1):
        kind, teacher = "swing_straight", "Swing too straight: {played} to 1 where {written} to 1 is written."
        student = "Your off-beats come too soon: let the first note of each pair be the longer one."
    elif written >= SWUNG_FROM and played > DEEP_ABOVE * written:
        kind, teacher = "swing_deep", "Swing too deep: {played} to 1 where {written} to 1 is written."
        student = "Your off-beats come too late: the short note is clipped. Think in three."
    elif written < SWUNG_FROM and played >= SWUNG_FROM:
        kind, teacher = "swung", "Swings where straight is written: {played} to 1."
        student = "Your pairs limp a little. Make both notes of a pair equally long."
    else:
        return
    yield c.finding(
        kind, size=played, unit="ratio", criterion=TIMING, bars=(1, len(c.part.bars)),
        figures={"played": f"{played:.1f}", "written": f"{written:.1f}"},
        teacher=teacher, student=student,
    )  # fmt: skip


def hands(c: Context) -> Iterator[Finding]:
    by = {str(p.place): p for p in c.measures.timing.by_hand if p.count >= PLACE_LEAST_NOTES}
    if len(by) < 2:
        return
    gap = by["left"].median_ms - by["right"].median_ms
    if abs(gap) < HAND_FROM_MS:
        return
    late = "left" if gap > 0 else "right"
    other = "right" if late == "left" else "left"
    at = [k for k, (p, _) in enumerate(c.rows) if c.part.notes[p.target or 0].hand == late]
    yield c.finding(
        "hand_late", size=abs(gap), unit="ms", criterion=TIMING,
        cost=c.timing_cost(c.measures.timing.steady_ms[at]),
        targets=[c.rows[k][0].target or 0 for k in at], place=f"{late} hand",
        figures={"late": late, "other": other, "size": round(abs(gap))},
        teacher="The {late} hand comes {size} ms after the {other}.",
        student="Your {late} hand comes after your {other}. Tap both hands on the lid together, then play.",
    )  # fmt: skip


def rolled_chords(c: Context) -> Iterator[Finding]:
    spread = c.measures.timing.chord_spread_ms.value
    if spread is None or spread < ROLLED_FROM_MS or c.part.kind != "keyboard":
        return
    yield c.finding(
        "rolled_chords", size=spread, unit="ms", criterion=TIMING, cost=c.timing_cost([spread / 2] * (len(c.rows) // 2)),
        bars=(1, len(c.part.bars)), figures={"size": round(spread)},
        teacher="Chords are rolled: {size} ms from first note to last.",
        student="The notes of your chords come one after the other. Shape the hand above the keys, then let it fall as one.",
    )  # fmt: skip


def unsteady(c: Context) -> Iterator[Finding]:
    spread = c.measures.timing.spread_ms.value
    if spread is None or spread < UNSTEADY_OF_FULL * c.mark.window.full_ms:
        return
    yield c.finding(
        "unsteady", size=spread, unit="ms", criterion=TIMING, cost=c.timing_cost(c.measures.timing.steady_ms),
        bars=(1, len(c.part.bars)), figures={"size": round(spread), "full": round(c.mark.window.full_ms)},
        teacher="Unsteady: notes scatter by {size} ms about the player's own beat.",
        student="Your beat wavers by about {size} ms. Play it slower with the click until every note sits, then raise the tempo.",
    )  # fmt: skip


RULES = (lead_or_lag, drift, own_tempo, slips, lanes, places, passages, swing, hands, rolled_chords, unsteady)
