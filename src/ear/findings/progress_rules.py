"""Ear notes about what is better than in the take before, by more than chance."""

import math
from collections.abc import Iterator

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.standing import MAD_ERROR, MEDIAN_ERROR, WANDER, Standing

ERRORS = 2.25
"""Standard errors of a difference below which it is chance, not progress."""
NOTES_GAINED_LEAST = 3
LEAD_GAINED_LEAST_MS = 8.0


def improved(c: Context) -> Iterator[Finding]:
    """Each gain with its size against the spread."""
    before, now = c.before, Standing.of(c.match, c.measures)
    if before is None or before.target != now.target or not before.linked or not now.linked:
        return
    gained = now.matched - before.matched
    if gained >= max(NOTES_GAINED_LEAST, ERRORS * math.hypot(before.matched_error, now.matched_error)):
        yield c.finding(
            "improved_notes", size=gained, unit="notes", bars=c.whole(),
            values={"count": gained, "of": now.target, "now": now.matched, "before": before.matched},
        )  # fmt: skip
    if before.slips > now.slips:
        yield c.finding(
            "improved_flow", size=before.slips - now.slips, unit="slips", bars=c.whole(),
            values={"before": before.slips, "now": now.slips},
        )  # fmt: skip
    if before.spread_ms is None or now.spread_ms is None:
        return
    steadier = before.spread_ms - now.spread_ms
    noise = MAD_ERROR * math.hypot(before.error_ms, now.error_ms)
    if steadier > ERRORS * noise:
        yield c.finding(
            "improved_steadiness", size=steadier, unit="ms", bars=c.whole(),
            values={"before": round(before.spread_ms), "now": round(now.spread_ms), "noise": round(noise)},
        )  # fmt: skip
    if before.bias_ms is None or now.bias_ms is None:
        return
    nearer = abs(before.bias_ms) - abs(now.bias_ms)
    noise = WANDER * MEDIAN_ERROR * math.hypot(before.error_ms, now.error_ms)
    if nearer > max(LEAD_GAINED_LEAST_MS, ERRORS * noise):
        yield c.finding(
            "improved_lead", size=nearer, unit="ms", bars=c.whole(),
            values={"before": round(abs(before.bias_ms)), "now": round(abs(now.bias_ms)), "noise": round(noise)},
        )  # fmt: skip


RULES = (improved,)
