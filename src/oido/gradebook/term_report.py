"""A student's report of a term, or of the whole time, on paper."""

from dataclasses import dataclass

from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import pgettext

from ear.judging.means import Mean
from oido.common.readers import number
from oido.exercises.printed import fonts_url, write_pdf
from oido.gradebook.book import EXCUSED, MARK, MISSING, WAITING, Cell, Row, book_of, mean_in, within_term
from oido.gradebook.models import ReportText
from oido.leaving.models import Term
from oido.people.models import SchoolClass, User
from oido.rubrics.models import read_version

WIDTH, HEIGHT, EDGE = 460.0, 110.0, 12.0
"""Of the picture of progress, in its own units."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Dot:
    """One mark in the picture: higher is better, later is further to the right."""

    x: float
    y: float
    cell: Cell


@dataclass(frozen=True, slots=True, kw_only=True)
class TermReportLine:
    """A line of the report: what it is, the mark as it is written, in the school's words, and what it weighs."""

    cell: Cell
    mark: str
    band: str


def lines_of(row: Row, term: Term | None) -> list[TermReportLine]:
    """Return what counts in the term, and what was excused or is missing."""
    lines = []
    for cell in within_term(row.cells, term):
        if cell.state == EXCUSED:
            lines.append(TermReportLine(cell=cell, mark=pgettext("state", "excused"), band=""))
        elif cell.state == MISSING:
            lines.append(TermReportLine(cell=cell, mark=pgettext("state", "missing"), band=""))
        elif cell.state == MARK and cell.points is not None:
            mark = f"{number(cell.points)} / {cell.out_of}"
            lines.append(TermReportLine(cell=cell, mark=mark, band=_band(cell)))
    return lines


def unmarked_of(row: Row, term: Term | None) -> list[Cell]:
    """Return what was handed in, in the term, and waits for its mark."""
    return [cell for cell in within_term(row.cells, term) if cell.state == WAITING]


def _band(cell: Cell) -> str:
    assignment = cell.column.assignment
    percent = cell.percent
    if assignment is None or percent is None:
        return ""
    return read_version(assignment.rubric, assignment.exercise.kind).band(percent).name


def dots_of(lines: list[TermReportLine]) -> list[Dot]:
    marks = [(line.cell, line.cell.percent) for line in lines if line.cell.state == MARK]
    step = (WIDTH - 2 * EDGE) / max(1, len(marks) - 1)
    return [
        Dot(
            x=round(EDGE + k * step, 1),
            y=round(EDGE + (HEIGHT - 2 * EDGE) * (1 - (percent or 0) / 100), 1),
            cell=cell,
        )
        for k, (cell, percent) in enumerate(marks)
    ]


def describe_sum(mean: Mean) -> str:
    """Return the working of the mean, to be added up by hand: “(1 × 80.0 + 2 × 92.5) ÷ 3 = 88.3”."""
    if mean.value is None:
        return ""
    parts = " + ".join(f"{number(one.weight, 2)} × {number(one.percent, 1)}" for one in mean.marks)
    return f"({parts}) ÷ {number(mean.weight, 2)} = {number(mean.value, 1)}"


def term_report(school_class: SchoolClass, student: User, term: Term | None) -> bytes:
    row = book_of(school_class, student=student).rows[0]
    lines = lines_of(row, term)
    mean = mean_in(row.cells, term)
    text = ReportText.objects.filter(school_class=school_class, term=term, student=student).first()
    dots = dots_of(lines)
    context = {
        "student": student, "school_class": school_class, "term": term, "lines": lines, "mean": mean,
        "sum": describe_sum(mean), "text": text.text if text else "", "dots": dots, "width": WIDTH, "height": HEIGHT,
        "edge": EDGE, "points": " ".join(f"{dot.x},{dot.y}" for dot in dots), "fonts": fonts_url(),
        "unmarked": unmarked_of(row, term), "today": timezone.localdate(),
        "teachers": [teacher.name for teacher in school_class.teachers.order_by("last_name", "first_name")],
        "foot": _("%(name)s, %(school_class)s") % {"name": student.name, "school_class": school_class},
    }  # fmt: skip
    return write_pdf(render_to_string("gradebook/paper.html", context))
