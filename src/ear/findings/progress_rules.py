"""Ear notes about what is better than in the take before, by more than chance; and what grows from take to take.

Of right notes two things are told: a step up from the take before, and three takes in a row of which each has more than
the one before. The step has to be larger where there are three takes to be told of, so that both together are told by
chance no more often: of takes that are all alike, one in forty at most.
"""

import math
from collections.abc import Iterator, Sequence
from itertools import takewhile

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.standing import MAD_ERROR, MEDIAN_ERROR, WANDER, Standing

ERRORS, ERRORS_OF_STEP = 2.25, 2.5
"""Standard errors of a difference below which it is chance, not progress; of a step that is the last of several takes."""
ERRORS_OF_THREE = 1.7
"""Of three takes that rise evenly, their common standard errors from the first to the last: that they do is half the
evidence."""
EVENLY = 0.2
"""Of the rise, by which the take between may be off its middle."""
MIN_NOTES_GAINED_OF_THREE = 4
MIN_NOTES_GAINED = 3
MIN_LEAD_GAINED_MS = 8.0


def improved(c: Context) -> Iterator[Finding]:
    """Find each gain over earlier takes, with its size against the spread."""
    now = Standing.of(c.match, c.measures)
    earlier = list(takewhile(lambda finding: finding.target == now.target and finding.linked, c.before[:2]))
    if not earlier or not now.linked:
        return
    before = earlier[0]
    code = more_notes(now, earlier)
    if code is not None:
        first = before if code == "improved_notes" else earlier[-1]
        yield c.finding(
            code, size=now.matched - first.matched, unit="notes", bars=c.whole(),
            values={
                "count": now.matched - first.matched, "of": now.target, "now": now.matched,
                "before": before.matched, "start": first.matched,
            },
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
    if nearer > max(MIN_LEAD_GAINED_MS, ERRORS * noise):
        yield c.finding(
            "improved_lead", size=nearer, unit="ms", bars=c.whole(),
            values={"before": round(abs(before.bias_ms)), "now": round(abs(now.bias_ms)), "noise": round(noise)},
        )  # fmt: skip


def more_notes(now: Standing, earlier: Sequence[Standing]) -> str | None:
    """Return the code for what is better about the notes of a take than about earlier takes of the same part
    (the last first); None if nothing is.
    """
    before, first = earlier[0], earlier[-1]
    gained = now.matched - before.matched
    errors = ERRORS if len(earlier) == 1 else ERRORS_OF_STEP
    if gained >= max(MIN_NOTES_GAINED, errors * math.hypot(before.matched_error, now.matched_error)):
        return "improved_notes"
    if len(earlier) < 2 or not first.matched < before.matched < now.matched:
        return None
    rise = now.matched - first.matched
    share = (first.matched + before.matched + now.matched) / (3 * now.target)
    noise = math.sqrt(2.0 * now.target * share * (1.0 - share))
    is_even = abs(before.matched - (first.matched + now.matched) / 2) <= EVENLY * rise
    is_certain = rise >= max(MIN_NOTES_GAINED_OF_THREE, ERRORS_OF_THREE * noise)
    return "improved_notes_thrice" if is_even and is_certain else None


RULES = (improved,)
