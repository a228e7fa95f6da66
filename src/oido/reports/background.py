"""What is made of a report in the background: the report on paper."""

import uuid

from django.utils.text import slugify
from django.utils.translation import gettext as _

from oido.jobs.kinds import MadeFile, Progress, job_kind
from oido.people.conventions import reader_of
from oido.people.models import User
from oido.reports.analysed_take import AnalysedTake
from oido.reports.pdf import report_pdf
from oido.reports.practice_sheet import practice_sheet_pdf
from oido.takes.queries import visible_takes


@job_kind("reports.paper")
def paper(progress: Progress, *, take: str, reader: int) -> MadeFile:
    reads = User.objects.get(pk=reader)
    row = visible_takes(reads).get(pk=uuid.UUID(take))
    data = report_pdf(AnalysedTake(row), list(row.remarks.select_related("author")), reader_of(reads))
    name = slugify(f"{row.student.name} {row.assignment.exercise.title}") or "report"
    return MadeFile(data, f"{name}.pdf", "application/pdf")


@job_kind("reports.practice_sheet")
def practice_sheet(progress: Progress, *, take: str, reader: int) -> MadeFile:
    reads = User.objects.get(pk=reader)
    row = visible_takes(reads).get(pk=uuid.UUID(take))
    data = practice_sheet_pdf(row, reader_of(reads))
    name = slugify(f"{row.assignment.exercise.title} {_('to practise')}") or "practice"
    return MadeFile(data, f"{name}.pdf", "application/pdf")
