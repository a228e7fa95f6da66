from collections import Counter, defaultdict
from collections.abc import Iterable
from typing import Any

from django.db.models import Exists, OuterRef, Q, QuerySet
from django.utils import timezone

from oido.assignments.models import Arrangement, Assignment, BookletAssignment, Reminder
from oido.assignments.student_terms import StudentTermsTable
from oido.exercises.models import Exercise
from oido.people.models import User


def visible_assignments(user: User) -> QuerySet[Assignment]:
    """Return the assignments that a user may see.

    A teacher sees those of their own classes, a head those of the whole school. A student sees those given to
    them that are open and not withdrawn.
    """
    assignments = Assignment.objects.select_related("exercise", "school_class", "booklet__booklet")
    assignments = assignments.filter(school=user.school_id)
    if user.is_head:
        return assignments
    if user.is_teacher:
        return assignments.filter(school_class__teachers=user)
    return _set_for(user, assignments).filter(withdrawn_at=None)


def recordable_assignments(student: User) -> QuerySet[Assignment]:
    """Return the assignments for which a student's takes are stored.

    Withdrawn ones are included, because a take may arrive late.
    """
    assignments = Assignment.objects.select_related("exercise", "school_class", "booklet__booklet")
    return _set_for(student, assignments.filter(school=student.school_id))


def _set_for(student: User, assignments: QuerySet[Assignment]) -> QuerySet[Assignment]:
    is_mine = Arrangement.objects.filter(assignment=OuterRef("pk"), student=student, is_given=True)
    return assignments.filter(
        Q(is_for_all=True) | Exists(is_mine), Q(opens_at=None) | Q(opens_at__lte=timezone.now()),
        school_class__students=student,
    )  # fmt: skip


def assignments_of_exercise(user: User, exercise: Exercise) -> list[Any]:
    return counted(visible_assignments(user).filter(exercise=exercise))


DECISIONS = ("released_at", "accepted_at", "asked_again_at")
"""Of a mark sheet: a teacher has decided on the take where one of these is set."""


def counted(assignments: Iterable[Assignment], *, terms_table: StudentTermsTable | None = None) -> list[Any]:
    """Return assignments with `handed_in_by` (keys of students), `handed_in` (how many), `waiting` (takes handed in that
    the teacher has not decided on) and `students`: those who have handed in, also if they have left the class since, and
    those who still have to. Each take that was handed in is read once."""
    rows: list[Any] = list(assignments)
    terms_table = terms_table or StudentTermsTable(rows)
    handed_in_by: dict[int, set[int]] = defaultdict(set)
    undecided: list[tuple[int, int]] = []
    keys = [row.pk for row in rows]
    takes = Assignment.objects.filter(pk__in=keys, takes__handed_in_at__isnull=False).order_by()
    columns = (f"takes__sheet__{name}" for name in DECISIONS)
    for assignment, student, *decided in takes.values_list("pk", "takes__student", *columns):
        handed_in_by[assignment].add(student)
        if not any(decided):
            undecided.append((assignment, student))
    # Few takes wait, so that only their students are looked up: have they been erased?
    students = User.objects.filter(pk__in={student for _, student in undecided})
    erased = set(students.exclude(erased_as="").values_list("pk", flat=True))
    waiting = Counter(assignment for assignment, student in undecided if student not in erased)
    for row in rows:
        row.handed_in_by = handed_in_by[row.pk]
        row.handed_in, row.waiting = len(row.handed_in_by), waiting[row.pk]
        row.students = row.handed_in + sum(
            student not in row.handed_in_by and terms_table.of(row.pk, student).is_asked
            for student in terms_table.students[row.school_class_id]
        )
    return rows


def visible_booklet_assignments(user: User) -> QuerySet[BookletAssignment]:
    """Return the booklet assignments that a user may see.

    A student sees those from which they were given something.
    """
    booklets = BookletAssignment.objects.filter(school=user.school_id).select_related(
        "booklet", "school_class"
    )
    if user.is_head:
        return booklets
    if user.is_teacher:
        return booklets.filter(school_class__teachers=user)
    return booklets.filter(assignments__in=visible_assignments(user)).distinct()


def reminders_of(student: User) -> dict[int, Reminder]:
    """Return the last reminder of each assignment, by the assignment's key."""
    rows = Reminder.objects.filter(student=student).select_related("by").order_by("sent_at")
    return {row.assignment_id: row for row in rows}
