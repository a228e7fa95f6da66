"""What a take scores in each measured criterion, with the rows that lost credit.

Credits are hundredths and scores tenths, rounded here and nowhere else: so a sum that is printed can be
added up by hand, and what rows lost adds up to what their criterion lost.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

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
Rows = NDArray[np.int64]

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
TOUCH_FULL, TOUCH_NONE = 16.0, 46.0
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

    @cached_property
    def targets(self) -> Rows:
        """Rows of target notes that count: those over which means are taken."""
        found: Rows = np.flatnonzero(self.counted[: self.facts.target.notes])
        return found

    def column(self, values: Sequence[float | None]) -> Floats:
        """Of the target notes that count; NaN for None."""
        whole = np.array(values[: self.facts.target.notes], dtype=np.float64)
        kept: Floats = whole[self.targets]
        return kept

    @cached_property
    def right(self) -> Flags:
        """Of the target notes that count, those that are said to be right."""
        found: Flags = self.said_right[self.targets]
        return found

    @cached_property
    def is_played(self) -> Flags:
        found: Flags = ~np.isnan(self.column(self.facts.rows.deviation_ms))
        return found

    @cached_property
    def is_matched(self) -> Flags:
        matched = Outcome.MATCHED
        whole = [outcome is matched for outcome in self.facts.rows.outcome[: self.facts.target.notes]]
        found: Flags = np.array(whole, dtype=bool)[self.targets]
        return found


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


WHYS = tuple(Why)
NUMBER = {why: k for k, why in enumerate(WHYS)}
"""Reasons as numbers, while they are arrays."""


def reasons(*choices: tuple[Flags, Why], otherwise: Why) -> Rows:
    """For each row the number of the first reason that holds."""
    found: Rows = np.select(
        [flags for flags, _ in choices], [NUMBER[why] for _, why in choices], NUMBER[otherwise]
    )
    return found


def spread(lost: float, rows: Rows, raw: Floats, why: Rows) -> Losses:
    """Points shared among rows in proportion to what each lost; rows that lost nothing are left out.

    rows, raw, why: (n,); `why` by the numbers of `reasons`.
    """
    there = raw > 0.0
    if lost <= 0.0 or not there.any():
        return Losses()
    shares = raw[there]
    return Losses(
        row=tuple(rows[there].tolist()),
        points=tuple((shares * (lost / float(shares.sum()))).tolist()),
        why=tuple([WHYS[k] for k in why[there].tolist()]),
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
    rows = seen.targets
    losses = spread(100.0, rows, np.ones(len(rows)), np.full(len(rows), NUMBER[Why.MISSED]))
    return CriterionScore(name=name, score=0.0, losses=losses, lines=(Line(code=code),))


def notes(seen: Seen, *, floor_percent: float) -> CriterionScore:
    """Right notes over written ones and those too many, on a scale that begins at the floor."""
    is_wrong = ~seen.is_matched & ~seen.right
    many = _too_many(seen)
    weighed = math.fsum(weight for _, weight, _ in many)
    written = len(seen.targets)
    whole = written + weighed
    right = written - int(is_wrong.sum())
    percent = tenths(100.0 * right / whole)
    score = tenths(max(0.0, 100.0 * (percent - floor_percent) / (100.0 - floor_percent)))
    wrong_rows = seen.targets[is_wrong]
    missed = int((~seen.is_played[is_wrong]).sum())
    why = np.concatenate(
        (
            reasons((~seen.is_played[is_wrong], Why.MISSED), otherwise=Why.WRONG),
            np.array([NUMBER[reason] for _, _, reason in many], dtype=np.int64),
        )
    )
    lines = [Line(code="notes_right", values={"count": right, "of": written})]
    if len(wrong_rows) - missed:
        lines.append(Line(code="notes_wrong", values={"count": len(wrong_rows) - missed}))
    if missed:
        lines.append(Line(code="notes_missed", values={"count": missed}))
    for reason, code, weight in (
        (Why.EXTRA, "notes_extra", EXTRA_WEIGHT),
        (Why.DOUBLE, "notes_double", DOUBLE_WEIGHT),
        (Why.GRAZE, "notes_graze", GRAZE_WEIGHT),
    ):
        count = sum(found is reason for _, _, found in many)
        if count:
            lines.append(Line(code=code, values={"count": count, "weighed": count * weight}))
    lines.append(Line(code="notes_share", values={"right": right, "whole": whole, "percent": percent}))
    lines.append(
        Line(code="notes_floor", values={"floor": floor_percent, "percent": percent, "score": score})
    )
    return CriterionScore(
        name=CriterionName.NOTES,
        score=score,
        losses=spread(
            100.0 - score,
            np.concatenate((wrong_rows, np.array([n for n, _, _ in many], dtype=np.int64))),
            np.concatenate((np.ones(len(wrong_rows)), np.array([weight for _, weight, _ in many]))),
            why,
        ),
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
    judged_ms: Floats
    """(target rows that count,); NaN where nothing was played."""
    within: float | None
    forgiven_ms: float


FORGIVEN_STEPS = 8
"""In which it is tried how much of a lead or lag to forgive."""


def forgiven(seen: Seen, *, window: Window, most_ms: float) -> float:
    """So much of the constant lead or lag, up to `most_ms`, as helps: all of it where nothing speaks against.
    In ms, to one digit, with its sign; 0 without a click.

    It is measured against the player's own time; who has lost the click half-way is not nearer to it for
    having his lead taken off.
    """
    if not most_ms or not seen.facts.take.has_click:
        return 0.0
    own = float(np.clip(seen.facts.figures.bias_ms or 0.0, -most_ms, most_ms))
    tried = np.round(np.linspace(own, 0.0, FORGIVEN_STEPS + 1), 1)
    click = seen.column(seen.facts.rows.click_ms)
    click = click[~np.isnan(click)]
    found = credit(np.abs(click[None, :] - tried[:, None]), full=window.full_ms, none=window.none_ms)
    earned = np.round(found.sum(axis=1), 2)
    return float(tried[np.argmax(earned)])


def timing(seen: Seen, *, window: Window, forgiven_most_ms: float, beside_share: float) -> Timed:
    """The mean credit of the written notes: each has the better of its credit against the click and of a
    share of its credit against the player's own pulse. Without a click the pulse alone counts.

    A lead or lag up to `forgiven_most_ms` is taken off deviations from the click.
    """
    facts = seen.facts
    forgiven_ms = forgiven(seen, window=window, most_ms=forgiven_most_ms)
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
    credits = np.where(seen.right, 1.0, credits)
    is_played, rows = seen.is_played, seen.targets
    why = reasons((~is_played, Why.MISSED), (beside, Why.BESIDE), (judged < 0, Why.EARLY), otherwise=Why.LATE)
    earned = round(float(credits.sum()), 2)
    score = tenths(100.0 * earned / len(rows))
    full = int(np.sum(credits >= 1.0))
    none = int(np.sum(is_played & (credits <= 0.0)))
    missed = int(np.sum(~is_played & (credits <= 0.0)))
    lines = [Line(code="timing_window", values={"full": window.full_ms, "none": window.none_ms})]
    if abs(forgiven_ms) >= 0.5:
        lines.append(Line(code="timing_forgiven", values={"forgiven": forgiven_ms}))
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
            losses=spread(100.0 - score, rows, 1.0 - credits, why),
            lines=tuple(lines),
        ),
        judged_ms=np.round(judged, 2).astype(np.float64),
        within=float(np.mean(credits[is_played] >= 1.0)) if is_played.any() else None,
        forgiven_ms=forgiven_ms,
    )


def _of_played(credits: Floats) -> Floats:
    """NaN, where nothing was played, is no credit."""
    found: Floats = np.nan_to_num(credits, nan=0.0)
    return found


def flow(seen: Seen) -> CriterionScore:
    """100 less what slips cost, each by its size, and what is left unplayed at the end."""
    facts = seen.facts
    lines, parts = [], []
    linked = seen.targets[seen.is_played]
    for slip in facts.slips:
        seconds = abs(slip.beats) * 60.0 / facts.target.bpm
        size = min(1.0, max(0.0, (seconds - SLIP_FROM_S) / (SLIP_FULL_S - SLIP_FROM_S)))
        cost = tenths(SLIP_COSTS[slip.kind] * size)
        row = slip.row if slip.row is not None else int(linked[0])
        if not cost or not seen.counted[row] or seen.said_right[row]:
            continue
        lines.append(Line(code=slip.kind.value, values={"bar": slip.bar, "cost": cost}))
        parts.append((cost, np.array([row]), Why.SLIP))
    end = seen.targets[(seen.targets > linked[-1]) & ~seen.right] if len(linked) else linked
    if facts.unplayed_bars_at_end and len(end):
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
            *(
                spread(cost * share, rows, np.ones(len(rows)), np.full(len(rows), NUMBER[why]))
                for cost, rows, why in parts
            )
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
    accents = np.zeros(facts.target.notes, dtype=bool)
    accents[list(facts.rows.accents)] = True
    is_accent = accents[rows]
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
    credits = np.where(seen.right, 1.0, credits)
    why = reasons((np.isnan(off), Why.MISSED), (signs < 0, Why.SOFT), otherwise=Why.LOUD)
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
        earned = round(float(credits[group].sum()), 2)
        reached_score = tenths(100.0 * earned / int(group.sum()))
        values = {"earned": earned, "of": int(group.sum()), "score": reached_score}
        lines.append(Line(code=code, values=values))
        score += share * reached_score
        losses.append((share * (100.0 - reached_score), rows[group], 1.0 - credits[group], why[group]))
    if len(losses) == 2:
        percents = {"accents": round(100 * shares[0]), "others": round(100 * shares[1])}
        lines.append(Line(code="touch_sum", values={**percents, "score": tenths(score)}))
    found = tenths(score)
    whole = math.fsum(lost for lost, _, _, _ in losses)
    rate = (100.0 - found) / whole if whole else 0.0
    return CriterionScore(
        name=CriterionName.DYNAMICS,
        score=found,
        losses=joined(
            *(spread(lost * rate, group, raw, found_why) for lost, group, raw, found_why in losses)
        ),
        lines=tuple(lines),
    )


def _heights(seen: Seen, rows: Rows, off: Floats, is_accent: Flags) -> tuple[Floats, Floats]:
    """How far notes stand out of the other notes of their voice: written and played, in velocity steps."""
    written = np.array(seen.facts.rows.written, dtype=np.float64)[rows]
    voice = np.array(seen.facts.rows.voice)[rows]
    base_written, base_played = np.zeros(len(rows)), np.zeros(len(rows))
    there = ~is_accent & ~np.isnan(off)
    for one in np.unique(voice):
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
    is_played = seen.is_played
    octaves = np.log2(np.maximum(ratio, 1e-3))
    credits = credit(np.abs(octaves), full=LENGTH_FULL_OCTAVES, none=LENGTH_NONE_OCTAVES)
    held = is_played & np.isnan(ratio)
    credits = np.where(held | seen.right, 1.0, _of_played(credits))
    why = reasons((~is_played, Why.MISSED), (octaves < 0, Why.SHORT), otherwise=Why.LONG)
    earned = round(float(credits.sum()), 2)
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
        losses=spread(100.0 - score, rows, 1.0 - credits, why),
        lines=tuple(lines),
    )
