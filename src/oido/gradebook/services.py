"""Enter marks, make and weigh columns, write a term's texts."""

import logging
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation
from typing import Any

from django.db import transaction

from oido.assignments.models import Assignment
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.gradebook.book import EXCUSED_SIGN, MISSING_SIGN
from oido.gradebook.models import MAX_NAME_LENGTH, Column, Entry, EntryChange, ReportText, State
from oido.leaving.models import Term
from oido.people.models import SchoolClass, User
from oido.people.queries import teaches

MAX_OUT_OF = 1000
MAX_WEIGHT = Decimal(100)
logger = logging.getLogger(__name__)


class NotAMark(ValueError):
    """What was typed is no mark of the column: a number within it, “e” for excused, “m” for missing, or nothing."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Typed:
    """What was typed into a cell; None in its place is nothing."""

    state: str
    points: Decimal | None


def read_typed(text: str, *, out_of: int) -> Typed | None:
    """Return the entry that was typed. Raise NotAMark."""
    plain = text.strip().lower().replace(",", ".")
    if not plain:
        return None
    if plain in (EXCUSED_SIGN, "x"):
        return Typed(state=State.EXCUSED, points=None)
    if plain in (MISSING_SIGN, "-", "–"):
        return Typed(state=State.MISSING, points=None)
    try:
        points = Decimal(plain).quantize(Decimal("0.01"), rounding=ROUND_HALF_UP)
    except InvalidOperation as problem:
        raise NotAMark(text) from problem
    if not points.is_finite() or not 0 <= points <= out_of:
        raise NotAMark(text)
    return Typed(state=State.MARK, points=points)


def _check(teacher: User, school_class: SchoolClass) -> None:
    if not teaches(teacher, school_class):
        raise NotAllowed


@transaction.atomic
def column_of(teacher: User, assignment: Assignment) -> Column:
    """Return the column of an assignment, made when it is first needed."""
    _check(teacher, assignment.school_class)
    column, _ = Column.objects.get_or_create(
        assignment=assignment,
        defaults={"school_id": assignment.school_id, "school_class": assignment.school_class},
    )
    return column


@transaction.atomic
def enter(teacher: User, column: Column, student: User, typed: Typed | None, *, why: str = "") -> None:
    """Let this stand in a cell; None takes away what was entered."""
    locked = Column.objects.select_for_update().get(pk=column.pk)
    _check(teacher, locked.school_class)
    if not locked.school_class.students.filter(pk=student.pk).exists():
        raise NotAllowed
    row = Entry.objects.select_for_update().filter(column=locked, student=student).first()
    before, after = describe_entry(row), describe_entry(typed)
    if before == after:
        return
    if typed is None:
        assert row is not None
        row.delete()
    else:
        Entry.objects.update_or_create(
            column=locked, student=student, defaults={"state": typed.state, "points": typed.points}
        )
    EntryChange.objects.create(
        column=locked, student=student, by=teacher, before=before, after=after, why=why.strip()[:200]
    )
    logger.info("cell of column %s and student %s entered by %s", locked.pk, student.pk, teacher.pk)


def describe_entry(of: Entry | Typed | None) -> str:
    """Return an entry as it would be typed."""
    if of is None:
        return ""
    if of.state == State.MARK:
        return "" if of.points is None else f"{of.points.normalize():f}"
    return EXCUSED_SIGN if of.state == State.EXCUSED else MISSING_SIGN


@transaction.atomic
def add_column(
    teacher: User, school_class: SchoolClass, *, name: str, out_of: int, weight: Decimal, on: date
) -> Column:
    _check(teacher, school_class)
    if not name.strip() or not 1 <= out_of <= MAX_OUT_OF or not 0 <= weight <= MAX_WEIGHT:
        raise NotAllowed
    return Column.objects.create(
        school_id=school_class.school_id, school_class=school_class, name=name.strip()[:MAX_NAME_LENGTH], out_of=out_of,
        weight=weight, on=on,
    )  # fmt: skip


@transaction.atomic
def change_column(teacher: User, column: Column, **facts: Any) -> None:
    """Change a column's weight, and for a teacher's own column also its name, day and maximum.

    Raise NotAMark if an entered mark is above the maximum.
    """
    locked = Column.objects.select_for_update().get(pk=column.pk)
    _check(teacher, locked.school_class)
    if locked.assignment_id is not None:
        facts = {"weight": facts["weight"]}
    out_of = facts.get("out_of", locked.out_of)
    if locked.assignment_id is None and locked.entries.filter(points__gt=out_of).exists():
        raise NotAMark(str(out_of))
    for name, value in facts.items():
        setattr(locked, name, value)
    locked.save()


@transaction.atomic
def delete_column(teacher: User, column: Column) -> None:
    """Delete a teacher's own column with its marks."""
    locked = Column.objects.select_for_update().get(pk=column.pk)
    _check(teacher, locked.school_class)
    if locked.assignment_id is not None:
        raise NotAllowed
    remember("column_deleted", actor=teacher, school_class=locked.school_class, name=locked.name)
    locked.delete()


@transaction.atomic
def write_text(teacher: User, school_class: SchoolClass, term: Term | None, student: User, text: str) -> None:
    """Store the text in a term's report. An empty text removes it."""
    _check(teacher, school_class)
    if not school_class.students.filter(pk=student.pk).exists():
        raise NotAllowed
    rows = ReportText.objects.filter(school_class=school_class, term=term, student=student)
    if not text.strip():
        rows.delete()
    elif not rows.update(text=text.strip()):
        ReportText.objects.create(school_class=school_class, term=term, student=student, text=text.strip())
