"""Ear notes about the sustain pedal."""

from collections.abc import Iterator

import numpy as np

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.measuring.pedal import PedalOutcome

MIN_REPORTED = 2
"""One change in a take is a slip of the foot; two are a habit."""
OFF_FROM_MS = 120.0
"""Middle deviation from which the foot is called early or late."""


def blurred_or_dry(c: Context) -> Iterator[Finding]:
    """Find a pedal that is not changed, or not held."""
    for code, outcome in (("pedal_blurred", PedalOutcome.BLURRED), ("pedal_dry", PedalOutcome.DRY)):
        rows = [one.row for one in c.measures.pedal if one.outcome is outcome]
        if len(rows) >= min(MIN_REPORTED, len(c.measures.pedal)):
            yield c.finding(
                code, size=len(rows), unit="places", rows=rows,
                values={"count": len(rows), "of": len(c.measures.pedal)},
            )  # fmt: skip


def early_or_late(c: Context) -> Iterator[Finding]:
    """Find a foot that is steadily ahead of or behind the written place."""
    moved = [one for one in c.measures.pedal if one.deviation_ms is not None]
    if len(moved) < MIN_REPORTED:
        return
    middle = float(np.median([one.deviation_ms for one in moved]))
    if abs(middle) >= OFF_FROM_MS:
        yield c.finding(
            "pedal_late" if middle > 0 else "pedal_early", size=middle, unit="ms",
            rows=[one.row for one in moved], bars=c.whole(), values={"size": abs(middle)},
        )  # fmt: skip


RULES = (blurred_or_dry, early_or_late)
