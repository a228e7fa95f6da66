"""Ear notes about whose hand a take shows. They say what is seen and accuse nobody."""

from collections.abc import Iterator

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.measuring.fairness import is_same_recording


def machine_hand(c: Context) -> Iterator[Finding]:
    if c.measures.looks_quantised:
        yield c.finding(
            "looks_quantised", size=0, unit="ms", bars=(1, len(c.part.bars)),
            teacher="Every onset stands on the grid to the millisecond: this looks corrected by a machine.",
            student="Every note stands exactly on the grid. Hand in a take as you played it.",
        )  # fmt: skip


def same_recording(c: Context) -> Iterator[Finding]:
    if c.measures.looks_quantised:
        # Two corrected takes of one part are alike whoever played them.
        return
    for who, other in c.others:
        if is_same_recording(c.take, other):
            yield c.finding(
                "same_recording", size=len(c.take.notes), unit="notes", bars=(1, len(c.part.bars)),
                figures={"who": who},
                teacher="The same recording as {who}: every onset agrees to the millisecond.",
                student="This take has the very notes and times of another one. Hand in a take of your own playing.",
            )  # fmt: skip


RULES = (machine_hand, same_recording)
