"""Ear notes about whose hand a take shows. They say what is seen and accuse nobody."""

from collections.abc import Iterator

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.measuring.fairness import imprint, is_same_recording


def machine_hand(c: Context) -> Iterator[Finding]:
    """Find playing that is more even than a human hand."""
    if c.measures.looks_quantised:
        yield c.finding("looks_quantised", size=0, unit="ms", bars=c.whole())


def same_recording(c: Context) -> Iterator[Finding]:
    """Find a recording that is the same as another student's."""
    if c.measures.looks_quantised:
        # Two corrected takes of one part are alike whoever played them.
        return
    own = imprint(c.recorded)
    for who, other in c.others:
        if is_same_recording(own, other):
            yield c.finding(
                "same_recording",
                size=len(c.take.notes),
                unit="notes",
                bars=c.whole(),
                values={"who": who},
            )


RULES = (machine_hand, same_recording)
