from django.db.models import Case, Count, Exists, F, OuterRef, Q, QuerySet, When
from django.utils import timezone

from oido.assignments.models import Arrangement, Assignment, GivenBooklet, Reminder
from oido.exercises.models import Exercise
from oido.people.models import User


def visible_assignments(user: User) -> QuerySet[Assignment]:
    """Those of the classes that a teacher teaches; a head's, of the whole school. Of a student those that are given to
    this one, are open and not withdrawn."""
    assignments = Assignment.objects.select_related("exercise", "school_class", "booklet__booklet")
    assignments = assignments.filter(school=user.school_id)
    if user.is_head:
        return assignments
    if user.is_teacher:
        return assignments.filter(school_class__teachers=user)
    return _set_for(user, assignments).filter(withdrawn_at=None)


def recordable_assignments(student: User) -> QuerySet[Assignment]:
    """Those for which a student's takes are stored: withdrawn ones as well, since what was recorded may arrive late."""
    assignments = Assignment.objects.select_related("exercise", "school_class", "booklet__booklet")
    return _set_for(student, assignments.filter(school=student.school_id))


def _set_for(student: User, assignments: QuerySet[Assignment]) -> QuerySet[Assignment]:
    is_mine = Arrangement.objects.filter(assignment=OuterRef("pk"), student=student, is_given=True)
    return assignments.filter(
        Q(is_for_all=True) | Exists(is_mine), Q(opens_at=None) | Q(opens_at__lte=timezone.now()),
        school_class__students=student,
    )  # fmt: skip


def assignments_of_exercise(user: User, exercise: Exercise) -> QuerySet[Assignment]:
    return with_counts(visible_assignments(user).filter(exercise=exercise))


def with_counts(assignments: QuerySet[Assignment]) -> QuerySet[Assignment]:
    """`handed_in` (students), `waiting` (takes handed in of which the teacher has not decided yet), `students` who are to
    hand in."""
    handed_in = Q(takes__handed_in_at__isnull=False)
    undecided = Q(
        takes__sheet__released_at__isnull=True,
        takes__sheet__accepted_at__isnull=True,
        takes__sheet__asked_again_at__isnull=True,
        takes__student__erased_as="",
    )
    of_class = Count("school_class__students", distinct=True)
    excused = Count("arrangements", filter=Q(arrangements__excused_at__isnull=False), distinct=True)
    named = Count(
        "arrangements", filter=Q(arrangements__excused_at=None, arrangements__is_given=True), distinct=True
    )
    return assignments.annotate(
        handed_in=Count("takes__student", filter=handed_in, distinct=True),
        waiting=Count("takes", filter=handed_in & undecided, distinct=True),
        of_class=of_class,
        excused=excused,
        named=named,
        students=Case(When(is_for_all=True, then=F("of_class") - F("excused")), default=F("named")),
    )


def visible_given_booklets(user: User) -> QuerySet[GivenBooklet]:
    """As with assignments: of a student those of which something is given to this one."""
    found = GivenBooklet.objects.filter(school=user.school_id).select_related("booklet", "school_class")
    if user.is_head:
        return found
    if user.is_teacher:
        return found.filter(school_class__teachers=user)
    return found.filter(assignments__in=visible_assignments(user)).distinct()


def reminders_of(student: User) -> dict[int, Reminder]:
    """The last reminder of each assignment, by its key."""
    rows = Reminder.objects.filter(student=student).select_related("by").order_by("sent_at")
    return {row.assignment_id: row for row in rows}
