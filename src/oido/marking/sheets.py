"""Conclude marks: count lateness and store what lists show of a take's judgement."""

from dataclasses import dataclass, replace
from typing import Any

from ear.extraction.finding_codec import finding_from_json, finding_to_json
from ear.findings.finding import Finding
from ear.judging.judge import Changes
from ear.judging.judgement import Judgement
from oido.assignments.models import Late
from oido.assignments.student_terms import get_student_terms
from oido.marking.models import MarkSheet
from oido.takes.judging import changes_of, judged
from oido.takes.models import Take

CONCLUDED = ("late_days", "late_days_charged", "total", "points", "out_of", "band", "is_whole", "heard")
"""What of a sheet is stored whenever its mark is concluded: these fields and no others, so that nothing that another
request writes is lost."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Lateness:
    """Days begun after the student's due date, and how many of them cost points."""

    days: int
    charged: int


def lateness_of(take: Take) -> Lateness:
    """Return how late a take was handed in, by the due date and the terms as they are now; not at all where a teacher
    asked for another take."""
    if take.handed_in_at is None:
        return Lateness(days=0, charged=0)
    asked = MarkSheet.objects.filter(
        take__assignment_id=take.assignment_id, take__student_id=take.student_id, asked_again_at__isnull=False
    )
    days = (
        0 if asked.exists() else get_student_terms(take.assignment, take.student).late_days(take.handed_in_at)
    )
    return Lateness(days=days, charged=days if take.assignment.late == Late.COSTS else 0)


def changes_if_concluded(take: Take) -> Changes:
    """Return what a teacher says of a take, with the lateness that would count if its mark were concluded now."""
    return replace(changes_of(take), late_days=lateness_of(take).charged)


def conclude_mark(sheet: MarkSheet, take: Take, *, save: bool = True) -> None:
    """Work out the mark of a locked take again, with its lateness now, and store it in its sheet."""
    lateness = lateness_of(take)
    sheet.late_days, sheet.late_days_charged = lateness.days, lateness.charged
    take.sheet = sheet
    _put(sheet, judged(take).judgement)
    if save:
        sheet.save(update_fields=CONCLUDED)


def _put(sheet: MarkSheet, mark: Judgement) -> None:
    sheet.total, sheet.points, sheet.out_of = mark.total, mark.points, mark.out_of
    sheet.band, sheet.is_whole = mark.band.name, not mark.to_be_marked
    sheet.heard = _kept(mark)


def _kept(mark: Judgement) -> Any:
    if not mark.faults:
        return None
    return finding_to_json(mark.faults[0].finding.without_rows())


def first_heard(stored: MarkSheet) -> Finding | None:
    """Return the ear note that costs most, or None."""
    return finding_from_json(stored.heard) if stored.heard else None
