"""What a take scores in each measured criterion, with the rows that lost credit.

Credits are hundredths and scores tenths, rounded here and nowhere else: so a sum that is printed can be
added up by hand, and what rows lost adds up to what their criterion lost.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.criteria import CriterionName
from ear.facts.facts import Facts
from ear.judging.judgement import CriterionScore, Line, Losses, Why
from ear.judging.levels import Window
from ear.matching.outcome import Outcome, SlipKind
from ear.measuring.figures import Floats
from ear.notes import Kind

Flags = NDArray[np.bool_]

EXTRA_WEIGHT, DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.25
"""What a note too many weighs against a target note. Notes of a false start weigh nothing here: they
cost Flow."""

SLIP_COSTS = {
    SlipKind.LATE_START: 10.0,
    SlipKind.EARLY_START: 10.0,
    SlipKind.SLIP: 12.0,
    SlipKind.RECOVERY: 4.0,
    SlipKind.RESTART: 20.0,
    SlipKind.SKIP: 15.0,
    SlipKind.SKIP_BAR: 15.0,
}
"""Points of Flow. A recovery is cheap: finding back to the click is a skill."""
SLIP_FROM_S, SLIP_FULL_S = 0.3, 0.8
"""A slip costs nothing at the size at which it is first told from a lead, a lag or a late note, and its
whole cost from here on: so it matters little on which side of that border a slip is seen."""
UNFINISHED_COST = 100.0
"""Points of Flow for the whole part left unplayed at the end; in proportion for less."""

ACCENT_SHARE = 0.7
"""Of Dynamics, where the part writes accents: they are few, and they are what is heard."""
ACCENT_FULL = 0.7
"""Share of the written height of an accent that has full credit."""
TOUCH_FULL, TOUCH_NONE = 12.0, 45.0
"""Velocity steps that a note may stand off the written shape: full credit up to, none from."""
LEVEL_FORGIVEN = 15.0
"""Velocity steps by which everything may be louder or softer than written."""
LENGTH_FULL_OCTAVES, LENGTH_NONE_OCTAVES = 0.3, 1.6
"""Length ratio on a log scale: full from 0.81 to 1.23 times, none from 0.33 or 3 times."""


@dataclass(frozen=True, kw_only=True)
class Seen:
    """Facts as arrays, with what a teacher has said of rows. Both flags: (rows,)."""

    facts: Facts
    counted: Flags
    said_right: Flags

    @property
    def targets(self) -> NDArray[np.int64]:
        """Rows of target notes that count: those over which means are taken."""
        found: NDArray[np.int64] = np.flatnonzero(self.counted[: self.facts.target.notes])
        return found

    def column(self, values: Sequence[float | None]) -> Floats:
        """Of the target notes that count; NaN for None."""
        return np.array([np.nan if values[i] is None else values[i] for i in self.targets], dtype=np.float64)

    def right(self) -> Flags:
        return self.said_right[self.targets]


def credit(size: Floats, *, full: float, none: float) -> Floats:
    """1 up to `full`, 0 from `none` on, a straight line between; to hundredths; elementwise."""
    if none <= full:
        whole: Floats = np.where(size <= full, 1.0, 0.0).astype(np.float64)
        return whole
    found: Floats = np.round(np.clip((none - size) / (none - full), 0.0, 1.0), 2).astype(np.float64)
    return found


def tenths(value: float) -> float:
    """Rounded half up to one digit."""
    return math.floor(value * 10.0 + 0.5 + 1e-9) / 10.0


def spread(lost: float, rows: Sequence[int], raw: Sequence[float], why: Sequence[Why]) -> Losses:
    """Points shared among rows in proportion to what each lost; rows that lost nothing are left out."""
    whole = math.fsum(raw)
    if whole <= 0.0 or lost <= 0.0:
        return Losses()
    kept = [(row, lost * share / whole, reason) for row, share, reason in zip(rows, raw, why, strict=True) if share > 0.0]  # fmt: skip
    return Losses(
        row=tuple(int(row) for row, _, _ in kept),
        points=tuple(points for _, points, _ in kept),
        why=tuple(reason for _, _, reason in kept),
    )


def joined(*parts: Losses) -> Losses:
    return Losses(
        row=sum((p.row for p in parts), ()),
        points=sum((p.points for p in parts), ()),
        why=sum((p.why for p in parts), ()),
    )


def nothing_played(seen: Seen, name: CriterionName) -> CriterionScore:
    """0, lost by all notes alike."""
    if not seen.facts.take.notes:
        code = "take_empty"
    elif seen.facts.take.is_foreign:
        code = "take_foreign"
    else:
        code = "nothing_found"
    rows = seen.targets.tolist()
    losses = spread(100.0, rows, [1.0] * len(rows), [Why.MISSED] * len(rows))
    return CriterionScore(name=name, score=0.0, losses=losses, lines=(Line(code=code),))


def notes(seen: Seen, *, floor_percent: float) -> CriterionScore:
    """Right notes over written ones and those too many, on a scale that begins at the floor."""
    facts = seen.facts
    outcome = facts.rows.outcome
    written = seen.targets.tolist()
    wrong = [i for i in written if outcome[i] is not Outcome.MATCHED and not seen.said_right[i]]
    many = _too_many(seen)
    weighed = math.fsum(weight for _, weight, _ in many)
    whole = len(written) + weighed
    right = len(written) - len(wrong)
    percent = tenths(100.0 * right / whole)
    score = tenths(max(0.0, 100.0 * (percent - floor_percent) / (100.0 - floor_percent)))
    rows = [*wrong, *(n for n, _, _ in many)]
    raw = [*([1.0] * len(wrong)), *(weight for _, weight, _ in many)]
    why = [
        *(Why.MISSED if outcome[i] is Outcome.MISSED else Why.WRONG for i in wrong),
        *(reason for _, _, reason in many),
    ]
    missed = sum(reason is Why.MISSED for reason in why)
    lines = [Line(code="notes_right", values={"count": right, "of": len(written)})]
    if len(wrong) - missed:
        lines.append(Line(code="notes_wrong", values={"count": len(wrong) - missed}))
    if missed:
        lines.append(Line(code="notes_missed", values={"count": missed}))
    for reason, code, weight in (
        (Why.EXTRA, "notes_extra", EXTRA_WEIGHT),
        (Why.DOUBLE, "notes_double", DOUBLE_WEIGHT),
        (Why.GRAZE, "notes_graze", GRAZE_WEIGHT),
    ):
        count = why.count(reason)
        if count:
            lines.append(Line(code=code, values={"count": count, "weighed": count * weight}))
    lines.append(Line(code="notes_share", values={"right": right, "whole": whole, "percent": percent}))
    lines.append(
        Line(code="notes_floor", values={"floor": floor_percent, "percent": percent, "score": score})
    )
    return CriterionScore(
        name=CriterionName.NOTES,
        score=score,
        losses=spread(100.0 - score, rows, raw, why),
        lines=tuple(lines),
    )


def _too_many(seen: Seen) -> list[tuple[int, float, Why]]:
    rows = seen.facts.rows
    grazes, abandoned = set(rows.grazes), set(rows.abandoned)
    found = []
    for n in range(seen.facts.target.notes, len(rows)):
        if n in abandoned or not seen.counted[n] or seen.said_right[n]:
            continue
        if n in grazes:
            found.append((n, GRAZE_WEIGHT, Why.GRAZE))
        elif rows.outcome[n] is Outcome.DOUBLE:
            found.append((n, DOUBLE_WEIGHT, Why.DOUBLE))
        else:
            found.append((n, EXTRA_WEIGHT, Why.EXTRA))
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Timed:
    """Timing, with the deviation by which each target row is judged, and the share in full credit."""

    scored: CriterionScore
    judged_ms: dict[int, float]
    within: float | None


def timing(seen: Seen, *, window: Window, forgiven_ms: float, beside_share: float) -> Timed:
    """The mean credit of the written notes: each has the better of its credit against the click and of a
    share of its credit against the player's own pulse. Without a click the pulse alone counts.

    `forgiven_ms` is taken off deviations from the click, with its sign.
    """
    facts = seen.facts
    click, pulse = seen.column(facts.rows.click_ms) - forgiven_ms, seen.column(facts.rows.pulse_ms)
    by_pulse = _of_played(credit(np.abs(pulse), full=window.full_ms, none=window.none_ms))
    if facts.take.has_click:
        by_click = _of_played(credit(np.abs(click), full=window.full_ms, none=window.none_ms))
        own = np.round(beside_share * by_pulse, 2)
        credits = np.maximum(by_click, own)
        half_beat_ms = 30_000.0 / facts.target.bpm
        # Far from the click only the player's own pulse says whether a note came early or late.
        judged = np.where((by_click >= own) | (np.abs(click) < half_beat_ms), click, pulse)
        beside = (own > by_click) & (np.abs(click) >= half_beat_ms) & (by_pulse >= 1.0)
    else:
        own, credits, judged, beside = by_pulse, by_pulse, pulse, np.zeros(len(pulse), dtype=bool)
    credits = np.where(seen.right(), 1.0, credits)
    is_played = ~np.isnan(pulse)
    rows = seen.targets
    lost = 1.0 - credits
    why = [
        Why.MISSED if not there else Why.BESIDE if own_time else Why.EARLY if ms < 0 else Why.LATE
        for there, own_time, ms in zip(is_played.tolist(), beside.tolist(), judged.tolist(), strict=True)
    ]
    earned = round(math.fsum(credits.tolist()), 2)
    score = tenths(100.0 * earned / len(rows))
    full = int(np.sum(credits >= 1.0))
    none = int(np.sum(is_played & (credits <= 0.0)))
    missed = int(np.sum(~is_played & (credits <= 0.0)))
    lines = [Line(code="timing_window", values={"full": window.full_ms, "none": window.none_ms})]
    if facts.take.has_click and abs(facts.figures.lead_ms) >= 0.5:
        lead = facts.figures.lead_ms
        lines.append(Line(code="timing_forgiven", values={"lead": lead, "forgiven": forgiven_ms}))
    lines.append(Line(code="timing_full", values={"count": full}))
    partly = len(rows) - full - none - missed
    if partly:
        lines.append(Line(code="timing_partly", values={"count": partly, "credit": round(earned - full, 2)}))
    if beside.any():
        share = round(100.0 * beside_share)
        lines.append(Line(code="timing_beside", values={"count": int(beside.sum()), "percent": share}))
    if none:
        lines.append(Line(code="timing_none", values={"count": none}))
    if missed:
        lines.append(Line(code="not_played", values={"count": missed}))
    lines.append(Line(code="mean_credit", values={"earned": earned, "of": len(rows), "score": score}))
    return Timed(
        scored=CriterionScore(
            name=CriterionName.TIMING,
            score=score,
            losses=spread(100.0 - score, rows.tolist(), lost.tolist(), why),
            lines=tuple(lines),
        ),
        judged_ms={
            row: round(ms, 2) for row, ms in zip(rows.tolist(), judged.tolist(), strict=True) if ms == ms
        },
        within=float(np.mean(credits[is_played] >= 1.0)) if is_played.any() else None,
    )


def _of_played(credits: Floats) -> Floats:
    """NaN, where nothing was played, is no credit."""
    found: Floats = np.nan_to_num(credits, nan=0.0)
    return found


def flow(seen: Seen) -> CriterionScore:
    """100 less what slips cost, each by its size, and what is left unplayed at the end."""
    facts = seen.facts
    lines, parts = [], []
    linked = [i for i in seen.targets.tolist() if facts.rows.take[i] is not None]
    for slip in facts.slips:
        seconds = abs(slip.beats) * 60.0 / facts.target.bpm
        size = min(1.0, max(0.0, (seconds - SLIP_FROM_S) / (SLIP_FULL_S - SLIP_FROM_S)))
        cost = tenths(SLIP_COSTS[slip.kind] * size)
        row = slip.row if slip.row is not None else linked[0]
        if not cost or not seen.counted[row] or seen.said_right[row]:
            continue
        lines.append(Line(code=slip.kind.value, values={"bar": slip.bar, "cost": cost}))
        parts.append((cost, [row], Why.SLIP))
    end = [i for i in seen.targets.tolist() if linked and i > linked[-1] and not seen.said_right[i]]
    if facts.unplayed_bars_at_end and end:
        cost = tenths(UNFINISHED_COST * facts.unplayed_bars_at_end / facts.target.bars)
        values = {"count": facts.unplayed_bars_at_end, "of": facts.target.bars, "cost": cost}
        lines.append(Line(code="unfinished", values=values))
        parts.append((cost, end, Why.MISSED))
    total = tenths(math.fsum(cost for cost, _, _ in parts))
    score = max(0.0, tenths(100.0 - total))
    if not lines:
        lines.append(Line(code="flow_whole"))
    lines.append(Line(code="flow_sum", values={"cost": total, "score": score}))
    share = (100.0 - score) / total if total else 0.0
    return CriterionScore(
        name=CriterionName.FLOW,
        score=score,
        losses=joined(
            *(spread(cost * share, rows, [1.0] * len(rows), [why] * len(rows)) for cost, rows, why in parts)
        ),
        lines=tuple(lines),
    )


def dynamics(seen: Seen) -> CriterionScore:
    """Accents by how far they stand out of their voice, other notes by how near they are to the written
    shape; means over the written notes."""
    facts = seen.facts
    if not facts.take.has_touch:
        return CriterionScore(name=CriterionName.DYNAMICS, score=None, lines=(Line(code="no_touch"),))
    rows = seen.targets
    off = seen.column(facts.rows.velocity_difference)
    is_accent = np.isin(rows, np.array(facts.rows.accents, dtype=np.int64))
    plain = off[~is_accent & ~np.isnan(off)]
    level = float(np.median(plain)) if len(plain) else 0.0
    shape = off - float(np.clip(level, -LEVEL_FORGIVEN, LEVEL_FORGIVEN))
    credits = _of_played(credit(np.abs(shape), full=TOUCH_FULL, none=TOUCH_NONE))
    signs = shape
    if is_accent.any():
        height, played = _heights(seen, rows, off, is_accent)
        reached = np.round(np.clip(played / (ACCENT_FULL * height), 0.0, 1.0), 2).astype(np.float64)
        credits = np.where(is_accent, _of_played(reached), credits)
        signs = np.where(is_accent, played - height, shape)
    credits = np.where(seen.right(), 1.0, credits)
    why = [
        Why.MISSED if ms != ms else Why.SOFT if sign < 0 else Why.LOUD
        for ms, sign in zip(off.tolist(), signs.tolist(), strict=True)
    ]
    lines = []
    if abs(level) >= 1:
        lines.append(Line(code="level_off", values={"steps": level, "forgiven": LEVEL_FORGIVEN}))
    groups = [("touch_accents", is_accent), ("touch_others", ~is_accent)]
    shares = [ACCENT_SHARE, round(1.0 - ACCENT_SHARE, 2)]
    if not is_accent.any() or is_accent.all():
        shares = [1.0 if group.any() else 0.0 for _, group in groups]
    score, losses = 0.0, []
    for (code, group), share in zip(groups, shares, strict=True):
        if not group.any():
            continue
        earned = round(math.fsum(credits[group].tolist()), 2)
        reached_score = tenths(100.0 * earned / int(group.sum()))
        values = {"earned": earned, "of": int(group.sum()), "score": reached_score}
        lines.append(Line(code=code, values=values))
        score += share * reached_score
        reasons = [reason for reason, inside in zip(why, group.tolist(), strict=True) if inside]
        losses.append(
            (share * (100.0 - reached_score), rows[group].tolist(), (1.0 - credits[group]).tolist(), reasons)
        )
    if len(losses) == 2:
        percents = {"accents": round(100 * shares[0]), "others": round(100 * shares[1])}
        lines.append(Line(code="touch_sum", values={**percents, "score": tenths(score)}))
    found = tenths(score)
    whole = math.fsum(lost for lost, _, _, _ in losses)
    rate = (100.0 - found) / whole if whole else 0.0
    return CriterionScore(
        name=CriterionName.DYNAMICS,
        score=found,
        losses=joined(*(spread(lost * rate, group, raw, reasons) for lost, group, raw, reasons in losses)),
        lines=tuple(lines),
    )


def _heights(seen: Seen, rows: NDArray[np.int64], off: Floats, is_accent: Flags) -> tuple[Floats, Floats]:
    """How far notes stand out of the other notes of their voice: written and played, in velocity steps."""
    written = np.array([seen.facts.rows.written[i] for i in rows], dtype=np.float64)
    voice = np.array([seen.facts.rows.voice[i] for i in rows])
    base_written, base_played = np.zeros(len(rows)), np.zeros(len(rows))
    there = ~is_accent & ~np.isnan(off)
    for one in set(voice.tolist()):
        here = voice == one
        others = ~is_accent & here
        base_written[here] = written[others].mean() if others.any() else written[here].min()
        played = there & here
        moved = off[played].mean() if played.any() else 0.0
        base_played[here] = base_written[here] + moved
    height = np.maximum(1.0, written - base_written)
    return height, written + off - base_played


def length(seen: Seen) -> CriterionScore:
    """The mean credit of the written notes by their length; what the pedal held counts in full."""
    facts = seen.facts
    if facts.target.kind is Kind.DRUMS:
        return CriterionScore(
            name=CriterionName.LENGTH, score=None, lines=(Line(code="drums_have_no_length"),)
        )
    rows = seen.targets
    ratio = seen.column(facts.rows.length_ratio)
    is_played = ~np.isnan(seen.column(facts.rows.deviation_ms))
    octaves = np.log2(np.maximum(ratio, 1e-3))
    credits = credit(np.abs(octaves), full=LENGTH_FULL_OCTAVES, none=LENGTH_NONE_OCTAVES)
    held = is_played & np.isnan(ratio)
    credits = np.where(held | seen.right(), 1.0, _of_played(credits))
    why = [
        Why.MISSED if not there else Why.SHORT if size < 0 else Why.LONG
        for there, size in zip(is_played.tolist(), octaves.tolist(), strict=True)
    ]
    earned = round(math.fsum(credits.tolist()), 2)
    score = tenths(100.0 * earned / len(rows))
    full = 2**LENGTH_FULL_OCTAVES
    none = 2**LENGTH_NONE_OCTAVES
    lines = [
        Line(code="length_window", values={
            "from": round(100 / full), "to": round(100 * full), "least": round(100 / none), "most": round(100 * none),
        }),
    ]  # fmt: skip
    if facts.figures.length_ratio is not None:
        lines.append(Line(code="length_middle", values={"percent": round(100 * facts.figures.length_ratio)}))
    if held.any():
        lines.append(Line(code="length_pedal", values={"count": int(held.sum())}))
    if not is_played.all():
        lines.append(Line(code="not_played", values={"count": int((~is_played).sum())}))
    lines.append(Line(code="mean_credit", values={"earned": earned, "of": len(rows), "score": score}))
    return CriterionScore(
        name=CriterionName.LENGTH,
        score=score,
        losses=spread(100.0 - score, rows.tolist(), (1.0 - credits).tolist(), why),
        lines=tuple(lines),
    )
