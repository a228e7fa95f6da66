"""Praise of whole bars."""

from ear.findings.finding import Finding
from ear.findings.kind import FindingKind, Tone
from ear.text import gettext_noop

MOSTLY = 0.9
"""Share of the notes from which most of them are praised."""


class WellBars(Finding):
    """Bars without a fault."""

    UNIT = "bars"
    KIND = FindingKind(
        code="well_bars", tone=Tone.PRAISE, share=None,
        teacher=gettext_noop("Without a fault: {bars}."),
        student=gettext_noop("Just as they should be: {bars}."),
    )  # fmt: skip

    @property
    def size(self) -> float:
        """Their number."""
        return float(self.bars[1] - self.bars[0] + 1) if self.bars else 0.0
