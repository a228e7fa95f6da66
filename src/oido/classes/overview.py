"""A class in one look: who is here, what is given, what came in, who is behind, where it has trouble."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from oido.assignments.models import Assignment, BookletAssignment
from oido.assignments.queries import counted
from oido.assignments.student_terms import StudentTermsTable
from oido.desk.class_picture import PictureBar, class_picture
from oido.people.models import SchoolClass, User
from oido.takes.models import Take

RECENT = 8
"""Of what came in, so many are shown."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassStudent:
    student: User
    handed_in: int
    asked: int
    """Exercises that the student has handed in or has to."""
    behind: tuple[Assignment, ...]
    """Due already, and not handed in."""

    @property
    def has_signed_in(self) -> bool:
        return self.student.last_login is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassLine:
    """What stands in one line of what is given: an assignment, or a booklet with all its exercises."""

    assignments: tuple[Any, ...]
    """With `handed_in`, `waiting`, `students`; the one due last ahead."""

    @property
    def booklet(self) -> BookletAssignment | None:
        first_booklet: BookletAssignment | None = self.assignments[0].booklet
        return first_booklet

    @property
    def first_due(self) -> datetime:
        first_due: datetime = min(one.due_at for one in self.assignments)
        return first_due

    @property
    def last_due(self) -> datetime:
        last_due: datetime = max(one.due_at for one in self.assignments)
        return last_due

    @property
    def handed_in(self) -> int:
        return sum(one.handed_in for one in self.assignments)

    @property
    def waiting(self) -> int:
        return sum(one.waiting for one in self.assignments)

    @property
    def wanted(self) -> int:
        return sum(one.students for one in self.assignments)


def lines_of(assignments: Sequence[Any]) -> tuple[ClassLine, ...]:
    """Return a line for each assignment, and one for each booklet in the place of its last assignment."""
    of_line: dict[tuple[str, int], list[Any]] = defaultdict(list)
    for assignment in assignments:
        of_line[
            ("booklet", assignment.booklet_id) if assignment.booklet_id else ("assignment", assignment.pk)
        ].append(assignment)
    return tuple(
        ClassLine(assignments=tuple(assignments_of_line)) for assignments_of_line in of_line.values()
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Overview:
    pupils: tuple[ClassStudent, ...]
    lines: tuple[ClassLine, ...]
    count: int
    """Of all assignments, those in booklets one by one."""
    came_in: tuple[Take, ...]
    pictured: Assignment | None
    trouble: tuple[PictureBar, ...]

    @property
    def behind(self) -> tuple[ClassStudent, ...]:
        """Who has missed most, ahead."""
        return tuple(sorted((p for p in self.pupils if p.behind), key=lambda p: -len(p.behind)))

    @property
    def without_sign_in(self) -> int:
        return sum(not pupil.has_signed_in for pupil in self.pupils)


def overview_of(school_class: SchoolClass) -> Overview:
    """Return the overview of a class, in eight queries whatever its size."""
    now = timezone.now()
    rows = list(
        Assignment.objects.filter(school_class=school_class)
        .select_related("exercise", "booklet__booklet")
        .order_by("-due_at", "-pk")
    )
    terms_table = StudentTermsTable(rows)
    assignments = counted(rows, terms_table=terms_table)
    takes = (
        Take.objects.filter(
            assignment__school_class=school_class, handed_in_at__isnull=False, student__erased_as=""
        )
        .select_related("student", "sheet", "assignment__exercise")
        .defer("events")
        .order_by("-handed_in_at")
    )
    handed = {(student, row.pk) for row in assignments for student in row.handed_in_by}
    students = school_class.students.order_by("last_name", "first_name", "pk")

    def is_asked(student: User, assignment: Assignment) -> bool:
        return assignment.withdrawn_at is None and terms_table.of(assignment.pk, student.pk).is_asked

    def is_behind(student: User, assignment: Assignment) -> bool:
        is_late = terms_table.of(assignment.pk, student.pk).is_late(now)
        return is_late and is_asked(student, assignment) and (student.pk, assignment.pk) not in handed

    pupils = tuple(
        ClassStudent(
            student=student,
            handed_in=sum((student.pk, one.pk) in handed for one in assignments),
            asked=sum((student.pk, one.pk) in handed or is_asked(student, one) for one in assignments),
            behind=tuple(one for one in assignments if is_behind(student, one)),
        )
        for student in students
    )
    pictured = next((one for one in assignments if one.handed_in), None)
    trouble = class_picture(pictured).worst if pictured is not None else ()
    return Overview(
        pupils=pupils,
        lines=lines_of(assignments),
        count=len(assignments),
        came_in=tuple(takes[:RECENT]),
        pictured=pictured,
        trouble=trouble,
    )
