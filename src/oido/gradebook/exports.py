"""The table of what a gradebook can be downloaded as."""

import csv
import io
import json
import zipfile
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext
from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from oido.common.cells import BOM, plain_row
from oido.gradebook.book import EXCUSED, MARK, MISSING, NOT_GIVEN, OPEN, WAITING, Book, Cell, book_of
from oido.jobs.exports import Export, by_file
from oido.people.models import Membership, SchoolClass

MAX_SHEET_NAME_LENGTH = 31
HEAD_ROWS = 4
NOT_IN_SHEET_NAMES = str.maketrans(dict.fromkeys("[]:*?/\\", " "))


def table_of(book: Book) -> list[list[Any]]:
    """Return a table of marks, means and days late.

    Four rows of headings (titles, due dates, maxima, weights), then a row for each student. Numbers and dates stay what they are.
    """
    columns, given = book.columns, [column for column in book.columns if column.assignment is not None]
    means = [
        _("Mean, %%: %(name)s") % {"name": name}
        for name in (pgettext("choice", "all"), *(term.name for term in book.terms), *map(str, book.booklets))
    ]
    late = [_("Days late: %(name)s") % {"name": column.title} for column in given]
    blank = [""] * len(means)
    rows: list[list[Any]] = [
        [_("Student"), *(column.title for column in columns), *means, *late],
        [_("due"), *(column.day for column in columns), *blank, *(column.day for column in given)],
        [
            _("out of"),
            *(column.out_of for column in columns),
            *(100 for _mean in means),
            *("" for _column in given),
        ],
        [
            pgettext("choice", "weight"),
            *(float(column.weight) for column in columns),
            *blank,
            *("" for _column in given),
        ],
    ]
    for row in book.rows:
        values = [_value(cell) for cell in row.cells]
        days = [
            "" if cell.take is None else cell.late_days
            for cell in row.cells
            if cell.column.assignment is not None
        ]
        rows.append(
            [row.student.name, *values, *("" if m.value is None else m.value for m in row.means), *days]
        )
    return rows


def _value(cell: Cell) -> Any:
    """Return a mark as a number, and otherwise a word: what waits to be marked counts nowhere yet, and is no mark."""
    if cell.state == MARK and cell.points is not None:
        return cell.points
    if cell.state == OPEN and cell.column.assignment is None:
        return ""
    return {
        EXCUSED: pgettext("state", "excused"), MISSING: pgettext("state", "missing"), WAITING: pgettext("state", "waiting"),
        OPEN: pgettext("state", "not handed in"), NOT_GIVEN: pgettext("state", "not given"),
    }.get(cell.state, "")  # fmt: skip


def as_csv(school_class: SchoolClass) -> bytes:
    buffer = io.StringIO()
    writer = csv.writer(buffer)
    for row in table_of(book_of(school_class)):
        writer.writerow(plain_row(row))
    return (BOM + buffer.getvalue()).encode()


def as_workbook(school_class: SchoolClass) -> bytes:
    """Return an Office Open XML workbook with frozen headings and real numbers."""
    book = Workbook()
    sheet = book.active
    sheet.title = school_class.name.translate(NOT_IN_SHEET_NAMES).strip()[:MAX_SHEET_NAME_LENGTH] or "Oido"
    for number, row in enumerate(table_of(book_of(school_class)), start=1):
        sheet.append(plain_row(row))
        if number == 1:
            for cell in sheet[1]:
                cell.font = Font(bold=True)
    sheet.freeze_panes = f"B{HEAD_ROWS + 1}"
    for k in range(1, sheet.max_column + 1):
        sheet.column_dimensions[get_column_letter(k)].width = 24 if k == 1 else 14
    buffer = io.BytesIO()
    book.save(buffer)
    return buffer.getvalue()


LINE_ITEM = (
    "sourcedId", "status", "dateLastModified", "title", "description", "assignDate", "dueDate", "classSourcedId",
    "categorySourcedId", "gradingPeriodSourcedId", "resultValueMin", "resultValueMax", "schoolSourcedId",
)  # fmt: skip
RESULT = (
    "sourcedId", "status", "dateLastModified", "lineItemSourcedId", "studentSourcedId", "scoreStatus", "score",
    "scoreDate", "comment",
)  # fmt: skip
SCORE_STATUS = {MARK: "fully graded", EXCUSED: "exempt", MISSING: "not submitted", WAITING: "submitted"}


def as_oneroster(school_class: SchoolClass) -> bytes:
    """Return line items and results as CSV files (1EdTech, "OneRoster 1.2 CSV Binding") with the manifest.

    Students have the keys from the school office's lists.
    """
    book = book_of(school_class)
    now = timezone.now().strftime("%Y-%m-%dT%H:%M:%SZ")
    known = dict(
        Membership.objects.filter(person__in=[row.student for row in book.rows]).values_list(
            "person", "source_id"
        )
    )
    class_key = school_class.source_id or f"oido-class-{school_class.pk}"
    school_key = f"oido-school-{school_class.school_id}"
    items, results = [], []
    for column in book.columns:
        key = f"oido-{school_class.pk}-{column.key}"
        begun = column.assignment.given_at.date() if column.assignment is not None else column.day
        items.append(
            (key, "active", now, column.title, "", begun.isoformat(), column.day.isoformat(), class_key, "oido-work", "",
             "0", str(column.out_of), school_key)
        )  # fmt: skip
    for row in book.rows:
        student = known.get(row.student.pk) or f"oido-person-{row.student.pk}"
        for cell in row.cells:
            status = SCORE_STATUS.get(cell.state)
            if status is None:
                continue
            points = cell.points if cell.state == MARK else (0 if cell.state == MISSING else None)
            score = "" if points is None else f"{points:g}"
            item = f"oido-{school_class.pk}-{cell.column.key}"
            results.append(
                (f"{item}-{row.student.pk}", "active", now, item, student, status, score, now[:10], "")
            )  # fmt: skip
    category = [("oido-work", "active", now, _("Exercises"), "1")]
    names = ("categories", "lineItems", "results")
    manifest = [
        ("propertyName", "value"), ("manifest.version", "1.0"), ("oneroster.version", "1.2"),
        *((f"file.{name}", "bulk" if name in names else "absent") for name in (
            "academicSessions", "categories", "classes", "classResources", "courses", "courseResources",
            "demographics", "enrollments", "lineItems", "lineItemLearningObjectiveIds", "lineItemScoreScales", "orgs",
            "resources", "results", "resultLearningObjectiveIds", "resultScoreScales", "roles", "scoreScales", "users",
            "userProfiles", "userResources",
        )),
        ("source.systemName", "Oido"), ("source.systemCode", "oido"),
    ]  # fmt: skip
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, rows in (
            ("manifest.csv", manifest),
            ("categories.csv", [("sourcedId", "status", "dateLastModified", "title", "weight"), *category]),
            ("lineItems.csv", [LINE_ITEM, *items]),
            ("results.csv", [RESULT, *results]),
        ):
            text = io.StringIO()
            csv.writer(text).writerows(map(plain_row, rows))
            archive.writestr(name, text.getvalue())
    return buffer.getvalue()


def as_json(book: Book) -> str:
    """Return the same table for the archive of a class, described by its own headings."""
    return json.dumps(table_of(book), ensure_ascii=False, indent=1, cls=DjangoJSONEncoder)


EXPORTS: tuple[Export[SchoolClass], ...] = (
    Export(
        file="marks.xlsx", name=gettext_lazy("Spreadsheet (XLSX)"), make=as_workbook,
        content_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ),
    Export(file="marks.csv", name="CSV", content_type="text/csv; charset=utf-8", make=as_csv),
    Export(
        file="oneroster.zip", name=gettext_lazy("OneRoster results"), content_type="application/zip", make=as_oneroster
    ),
    Export(
        file="class.zip", name=gettext_lazy("Everything of the class (ZIP)"), job="gradebook.class",
        title=gettext_lazy("Everything about %(name)s"), is_for_reader=True,
    ),
)  # fmt: skip
BY_FILE = by_file(EXPORTS)
