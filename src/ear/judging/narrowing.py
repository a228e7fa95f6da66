"""Ear notes after a teacher has said that some of their notes are right, or do not count."""

from collections.abc import Collection

from ear.facts.facts import RowFacts
from ear.findings.finding import Finding


def without_waived(finding: Finding, waived: Collection[int], rows: RowFacts) -> Finding | None:
    """Return the finding as it is without the waived rows; None where nothing is left of it.

    One that counts notes counts those that are left, in the bars in which they are; one that tells a figure of many notes
    keeps it.
    """
    left = tuple(row for row in finding.rows if row not in waived)
    if len(left) == len(finding.rows):
        return finding
    if not left:
        return None
    bars = sorted(bar for row in left if (bar := _bar_of(row, rows)) is not None)
    return finding.narrowed(left, (bars[0], bars[-1]) if bars else None)


def _bar_of(row: int, rows: RowFacts) -> int | None:
    target = row if row < len(rows.bar) else rows.near[row]
    return rows.bar[target] if target is not None and target < len(rows.bar) else None
