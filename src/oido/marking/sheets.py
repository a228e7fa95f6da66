"""What is kept of a take's judgement beside its mark sheet, for lists."""

from dataclasses import replace
from typing import Any

from ear.findings.finding import Finding
from ear.judging.judgement import Judgement
from ear.plain import from_plain, to_plain
from oido.marking.models import MarkSheet


def store(stored: MarkSheet, judged: Judgement, *, save: bool = True) -> None:
    """Put the figures that lists show into what is stored of a sheet: these fields and no others, so that
    nothing that somebody else writes is lost."""
    stored.total, stored.points, stored.out_of = judged.total, judged.points, judged.out_of
    stored.band, stored.is_whole = judged.band.name, not judged.to_be_marked
    stored.heard = _kept(judged)
    if save:
        stored.save(update_fields=["total", "points", "out_of", "band", "is_whole", "heard"])


def _kept(judged: Judgement) -> Any:
    if not judged.faults:
        return None
    return to_plain(replace(judged.faults[0].finding, rows=(), confusions=()))


def first_heard(stored: MarkSheet) -> Finding | None:
    """The ear note that costs most; None where there is none."""
    return from_plain(stored.heard, Finding, expected="an ear note") if stored.heard else None
