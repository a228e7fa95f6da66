"""Ear notes about what went well."""

import math
from collections.abc import Iterator

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.standing import Standing
from ear.marking.rubric import CriterionName
from ear.matching.outcome import Outcome

NOTES, DYNAMICS = CriterionName.NOTES, CriterionName.DYNAMICS
PRAISE_TIMING, PRAISE_NOTES, PRAISE_DYNAMICS = 90.0, 97.0, 90.0
PRAISE_NOTES_LEAST = 8
ERRORS = 2.0
"""Standard errors of a difference below which it is chance, not progress."""
MAD_ERROR, MEDIAN_ERROR = 1.16, 1.25
"""Standard errors, times spread over the root of the number of notes, of a spread that was taken
from the median absolute deviation, and of a median; for normal deviations (Huber, "Robust
Statistics", 1981)."""
WANDER = 1.8
"""How much larger the error of a median is for hands, whose deviations wander together: half the
variance a timekeeper's, of which seven tenths carry over from note to note (`players/robot.py`)."""
NOTES_GAINED_LEAST = 3
LEAD_GAINED_LEAST_MS = 8.0


def went_well(c: Context) -> Iterator[Finding]:
    if len(c.rows) < PRAISE_NOTES_LEAST:
        return
    scores = {k.name: k.score for k in c.mark.criteria if k.score is not None}
    spread = c.measures.timing.spread_ms.value
    if scores.get(CriterionName.TIMING, 0) >= PRAISE_TIMING and spread is not None:
        yield c.finding(
            "well_in_time", size=spread, unit="ms", bars=(1, len(c.part.bars)), is_praise=True,
            figures={"spread": round(spread)},
            teacher="In time throughout, steady to {spread} ms.",
            student="You sit right with the click, steady to {spread} ms.",
        )  # fmt: skip
    if scores.get(NOTES, 0) >= PRAISE_NOTES:
        counts = c.measures.counts
        whole = counts.matched == counts.target
        yield c.finding(
            "well_notes", size=counts.matched, unit="notes", bars=(1, len(c.part.bars)), is_praise=True,
            figures={"count": counts.matched, "of": counts.target},
            teacher="All {of} notes right." if whole else "{count} of {of} notes right.",
            student="All {of} notes are right." if whole else "{count} of {of} notes are right.",
        )  # fmt: skip
    if scores.get(DYNAMICS, 0) >= PRAISE_DYNAMICS and c.measures.dynamics.accent_contrast.value is not None:
        yield c.finding(
            "well_accents", size=scores[DYNAMICS] or 0, unit="points", bars=(1, len(c.part.bars)), is_praise=True,
            teacher="Accents stand where they are written.",
            student="Your accents stand where they are written.",
        )  # fmt: skip
    yield from _best_bars(c)


def _best_bars(c: Context) -> Iterator[Finding]:
    """The longest run of bars without a fault, if most of the take had some."""
    faulty = {
        c.bar_of(p.target) for p in c.match.pairs if p.target is not None and p.outcome is not Outcome.MATCHED
    }
    faulty |= {c.bar_of(p.target or 0) for p, d in c.rows if abs(d) > c.mark.window.full_ms}
    run: list[int] = []
    best: list[int] = []
    for bar in c.part.bars:
        run = [] if bar.number in faulty else [*run, bar.number]
        best = run if len(run) > len(best) else best
    if faulty and 2 <= len(best) < len(c.part.bars):
        yield c.finding(
            "well_bars", size=len(best), unit="bars", bars=(best[0], best[-1]), is_praise=True,
            teacher="Bars {bar} to {last_bar} without a fault.",
            student="Bars {bar} to {last_bar} are just as they should be.",
        )  # fmt: skip


def improved(c: Context) -> Iterator[Finding]:
    """What is better than in the take before by more than chance: its size against the spread."""
    before, now = c.before, Standing.of(c.match, c.measures)
    if before is None or before.target != now.target or not before.linked or not now.linked:
        return
    bars = (1, len(c.part.bars))
    gained = now.matched - before.matched
    if gained >= max(NOTES_GAINED_LEAST, ERRORS * math.hypot(before.matched_error, now.matched_error)):
        yield c.finding(
            "improved_notes", size=gained, unit="notes", bars=bars, is_praise=True,
            figures={"count": gained, "of": now.target, "now": now.matched, "before": before.matched},
            teacher="{count} more notes right than in the take before: {now} of {of}, {before} then.",
            student="{count} more notes are right than last time: {now} of {of}.",
        )  # fmt: skip
    if before.slips > now.slips:
        yield c.finding(
            "improved_flow", size=before.slips - now.slips, unit="slips", bars=bars, is_praise=True,
            figures={"before": before.slips, "now": now.slips},
            teacher="Keeps going: {now} slips, {before} in the take before.",
            student="You kept going where you had stopped last time.",
        )  # fmt: skip
    if before.spread_ms is None or now.spread_ms is None:
        return
    steadier = before.spread_ms - now.spread_ms
    noise = MAD_ERROR * math.hypot(before.error_ms, now.error_ms)
    if steadier > ERRORS * noise:
        yield c.finding(
            "improved_steadiness", size=steadier, unit="ms", bars=bars, is_praise=True,
            figures={"before": round(before.spread_ms), "now": round(now.spread_ms), "noise": round(noise)},
            teacher="Steadier than in the take before: {before} to {now} ms, where ±{noise} would be chance.",
            student="Your beat is steadier than last time: {now} ms instead of {before}.",
        )  # fmt: skip
    if before.bias_ms is None or now.bias_ms is None:
        return
    nearer = abs(before.bias_ms) - abs(now.bias_ms)
    noise = WANDER * MEDIAN_ERROR * math.hypot(before.error_ms, now.error_ms)
    if nearer > max(LEAD_GAINED_LEAST_MS, ERRORS * noise):
        yield c.finding(
            "improved_lead", size=nearer, unit="ms", bars=bars, is_praise=True,
            figures={"before": round(abs(before.bias_ms)), "now": round(abs(now.bias_ms)), "noise": round(noise)},
            teacher="Nearer to the click than in the take before: {before} to {now} ms off, where ±{noise} would be chance.",
            student="You are nearer to the click than last time: {now} ms off instead of {before}.",
        )  # fmt: skip


RULES = (went_well, improved)
