"""The gradebook of a class, read whole: students by columns, each cell with what counts in it and why."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from django.utils import timezone

from ear.judging.means import Mean, Weighed, mean_of, percent_of
from oido.assignments.models import Assignment, BookletAssignment
from oido.assignments.student_terms import StudentTermsTable
from oido.common.readers import number
from oido.gradebook.models import Column, Entry, State
from oido.leaving.models import Term
from oido.people.models import SchoolClass, User
from oido.takes.models import Take

DEFAULT_WEIGHT = Decimal(1)
EXCUSED_SIGN, MISSING_SIGN = "e", "m"
NOT_GIVEN, OPEN, WAITING, MARK, EXCUSED, MISSING = (
    "not-given",
    "open",
    "waiting",
    "mark",
    "excused",
    "missing",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class BookColumn:
    """`key` is “a” and an assignment's number, or “c” and that of an own column."""

    key: str
    title: str
    day: date
    weight: Decimal
    assignment: Assignment | None
    column: Column | None
    out_of: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """`state` says what stands there: a mark, excused, missing (counts as nothing), waiting to be marked (does not count
    yet), open (not due), or nothing, since it was not given to this student."""

    column: BookColumn
    state: str
    points: float | None = None
    out_of: int = 100
    is_entered: bool = False
    """By hand, in place of what a take has."""
    is_released: bool = True
    late_days: int = 0
    take: Take | None = None

    @property
    def percent(self) -> float | None:
        """To one digit; what is missing has nothing."""
        if self.state == MISSING:
            return 0.0
        return (
            percent_of(self.points, self.out_of) if self.state == MARK and self.points is not None else None
        )

    @property
    def typed(self) -> str:
        """As it is typed into the grid."""
        if self.state == EXCUSED:
            return EXCUSED_SIGN
        if self.state == MISSING:
            return MISSING_SIGN
        return "" if self.points is None else number(self.points)

    @property
    def weighed(self) -> Weighed | None:
        """What it is in a mean; None where it does not count."""
        percent = self.percent
        return None if percent is None else Weighed(percent=percent, weight=float(self.column.weight))


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    student: User
    cells: tuple[Cell, ...]
    terms: tuple[Mean, ...]
    booklets: tuple[Mean, ...]
    mean: Mean

    @property
    def means(self) -> tuple[Mean, ...]:
        """Over all, then of terms and of booklets, in the order of the book."""
        return (self.mean, *self.terms, *self.booklets)


@dataclass(frozen=True, slots=True, kw_only=True)
class Book:
    """`terms` are those in which something stands; each row has a mean for each, and one over all."""

    school_class: SchoolClass
    columns: tuple[BookColumn, ...]
    rows: tuple[Row, ...]
    terms: tuple[Term, ...]
    booklets: tuple[BookletAssignment, ...]
    """Those of which something stands in it."""


def columns_of(school_class: SchoolClass) -> list[BookColumn]:
    """Return the columns in order of their days."""
    by_hand = list(Column.objects.filter(school_class=school_class))
    of_assignment = {column.assignment_id: column for column in by_hand if column.assignment_id}
    columns = [
        BookColumn(
            key=f"a{given.pk}",
            title=given.exercise.title,
            day=timezone.localtime(given.due_at).date(),
            weight=of_assignment[given.pk].weight if given.pk in of_assignment else DEFAULT_WEIGHT,
            assignment=given,
            column=of_assignment.get(given.pk),
            out_of=given.marked_by.out_of,
        )
        for given in Assignment.objects.filter(school_class=school_class, withdrawn_at=None).select_related(
            "exercise", "rubric", "booklet__booklet"
        )
    ]
    columns += [
        BookColumn(
            key=f"c{column.pk}", title=column.name, day=column.on or timezone.localdate(), weight=column.weight, assignment=None,
            column=column, out_of=column.out_of,
        )
        for column in by_hand
        if column.assignment_id is None
    ]  # fmt: skip
    return sorted(columns, key=lambda column: (column.day, column.assignment is None, int(column.key[1:])))


UNREAD = ("events", "pads", "kit_pads", "settings", "shown")
"""Columns of takes that no mark needs: there are thousands of takes in a gradebook."""


def book_of(school_class: SchoolClass, *, student: User | None = None) -> Book:
    """Return the gradebook of a class, or of one student.

    It takes seven queries, whatever the size of the class.
    """
    columns = columns_of(school_class)
    terms = list(Term.objects.order_by("begins_on"))
    students = list(school_class.students.order_by("last_name", "first_name", "pk"))
    if student is not None:
        students = [person for person in students if person.pk == student.pk]
    assignments = [column.assignment for column in columns if column.assignment is not None]
    terms_table = StudentTermsTable(assignments)
    takes = defaultdict(list)
    handed_in = Take.objects.filter(assignment__in=assignments, handed_in_at__isnull=False).select_related(
        "sheet"
    )
    for take in handed_in.defer(*UNREAD).order_by("number"):
        takes[take.assignment_id, take.student_id].append(take)
    entries = {
        (row.column_id, row.student_id): row
        for row in Entry.objects.filter(column__school_class=school_class)
    }
    now = timezone.now()

    def cell(column: BookColumn, student: User) -> Cell:
        entry = entries.get((column.column.pk, student.pk)) if column.column is not None else None
        if column.assignment is None:
            empty = Cell(column=column, state=OPEN, out_of=column.out_of)
            return _entered(column, entry, out_of=column.out_of) or empty
        student_terms, student_takes = (
            terms_table.of(column.assignment.pk, student.pk),
            takes.get((column.assignment.pk, student.pk), []),
        )
        sheets = [take.sheet for take in student_takes if hasattr(take, "sheet")]
        out_of = sheets[0].out_of if sheets else column.out_of
        entered = _entered(column, entry, out_of=out_of, take=student_takes[0] if student_takes else None)
        if entered is not None:
            return entered
        if student_terms.is_excused:
            return Cell(column=column, state=EXCUSED)
        if not sheets:
            if not student_terms.is_given or student_terms.is_before_joining:
                return Cell(column=column, state=NOT_GIVEN)
            return Cell(column=column, state=MISSING if student_terms.is_late(now) else OPEN, out_of=out_of)
        settled = all(sheet.accepted_at is not None or sheet.is_released for sheet in sheets)
        # Of takes that are handed in together each has a mark; the cell has their mean.
        points: float | None = sum(sheet.points * out_of / sheet.out_of for sheet in sheets) / len(sheets)
        if (
            not settled
            and not all(sheet.is_whole for sheet in sheets)
            and student_terms.rules.has_questions_only
        ):
            # Nobody has read the answers yet: nothing is known of them, and that is no 0.
            points = None
        return Cell(
            column=column, state=MARK if settled else WAITING, out_of=out_of, take=student_takes[0],
            points=None if points is None else round(points, 2),
            is_released=all(sheet.is_released for sheet in sheets), late_days=max(sheet.late_days for sheet in sheets),
        )  # fmt: skip

    shown = [
        term for term in terms if any(term.begins_on <= column.day <= term.ends_on for column in columns)
    ]
    of_booklet: dict[int, BookletAssignment] = {
        given.booklet.pk: given.booklet for given in assignments if given.booklet is not None
    }
    rows = []
    for person in students:
        cells = tuple(cell(column, person) for column in columns)
        rows.append(
            Row(
                student=person,
                cells=cells,
                terms=tuple(mean_in(cells, term) for term in shown),
                booklets=tuple(_mean_of_booklet(cells, key) for key in of_booklet),
                mean=mean_in(cells, None),
            )
        )
    return Book(
        school_class=school_class,
        columns=tuple(columns),
        rows=tuple(rows),
        terms=tuple(shown),
        booklets=tuple(of_booklet.values()),
    )


def within_term(cells: tuple[Cell, ...], term: Term | None) -> list[Cell]:
    """Return the cells of columns whose day is in a term; all of them without one."""
    return [c for c in cells if term is None or term.begins_on <= c.column.day <= term.ends_on]


def mean_in(cells: tuple[Cell, ...], term: Term | None) -> Mean:
    """Return the mean of what counts, in a term or over all."""
    return _mean_of_cells(within_term(cells, term))


def _mean_of_booklet(cells: tuple[Cell, ...], booklet: int) -> Mean:
    return _mean_of_cells(
        [
            cell
            for cell in cells
            if cell.column.assignment is not None and cell.column.assignment.booklet_id == booklet
        ]
    )


def _mean_of_cells(cells: Iterable[Cell]) -> Mean:
    return mean_of([weighed for cell in cells if (weighed := cell.weighed) is not None])


def _entered(
    column: BookColumn, entry: Entry | None, *, out_of: int, take: Take | None = None
) -> Cell | None:
    if entry is None:
        return None
    state = {State.EXCUSED.value: EXCUSED, State.MISSING.value: MISSING}.get(entry.state, MARK)
    points: Any = float(entry.points) if entry.points is not None else None
    return Cell(column=column, state=state, points=points, out_of=out_of, is_entered=True, take=take)
