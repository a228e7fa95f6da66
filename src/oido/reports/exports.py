"""The table of what a report can be downloaded as."""

from django.utils.translation import gettext_lazy as _

from oido.jobs.exports import Export, by_file
from oido.takes.models import Take

EXPORTS: tuple[Export[Take], ...] = (
    Export(
        file="report.pdf", name=_("As a PDF, with notation"), job="reports.paper",
        title=_("%(name)s, %(title)s: the report on paper"), is_for_reader=True,
    ),
    Export(
        file="practice-sheet.pdf", name=_("Practice sheet (PDF)"), job="reports.practice_sheet",
        title=_("%(name)s, %(title)s: what to practise"), is_for_reader=True,
    ),
)  # fmt: skip
BY_FILE = by_file(EXPORTS)
WITHOUT_A_MARK = frozenset({"practice-sheet.pdf"})
"""What says nothing of the mark: to be had as soon as the analysis may be read."""
