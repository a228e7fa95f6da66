from django.db.models import Case, Count, Exists, F, IntegerField, OuterRef, Q, QuerySet, Subquery, When
from django.db.models.expressions import Combinable
from django.db.models.functions import Coalesce
from django.utils import timezone

from oido.assignments.models import Arrangement, Assignment, GivenBooklet, Reminder
from oido.exercises.models import Exercise
from oido.people.models import Attendance, User


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
    """Annotate assignments with `handed_in` (students), `waiting` (takes handed in that the teacher has not decided on)
    and `students`: those who have handed in, also if they have left the class since, and those who still have to.

    Each is counted by itself: joined, takes would be multiplied by students and arrangements.
    """
    handed_in = Q(takes__handed_in_at__isnull=False)
    undecided = Q(
        takes__sheet__released_at__isnull=True,
        takes__sheet__accepted_at__isnull=True,
        takes__sheet__asked_again_at__isnull=True,
        takes__student__erased_as="",
    )
    missing = Case(When(is_for_all=True, then=_missing(is_for_all=True)), default=_missing(is_for_all=False))
    return assignments.annotate(
        handed_in=_count(Count("takes__student", filter=handed_in, distinct=True)),
        waiting=_count(Count("takes", filter=handed_in & undecided, distinct=True)),
        missing=missing,
        students=F("handed_in") + F("missing"),
    )


def _count(counted: Count) -> Combinable:
    """Count something of each assignment by itself."""
    own = Assignment.objects.filter(pk=OuterRef("pk")).order_by()
    return Subquery(own.annotate(counted=counted).values("counted"), output_field=IntegerField())


def _missing(*, is_for_all: bool) -> Combinable:
    """Count the students of each assignment's class who are to hand in and have not (`Deal.is_asked`, for all at once)."""
    arranged = Arrangement.objects.filter(assignment=OuterRef(OuterRef("pk")), student=OuterRef("user"))
    own = Assignment.objects.filter(pk=OuterRef(OuterRef("pk")), takes__student=OuterRef("user"))
    students = Attendance.objects.filter(
        ~Exists(own.filter(takes__handed_in_at__isnull=False)),
        ~Exists(arranged.filter(excused_at__isnull=False)),
        schoolclass=OuterRef("school_class"),
    )
    is_named = Exists(arranged.filter(is_given=True))
    if is_for_all:
        has_more_time = Exists(arranged.filter(due_at__gte=OuterRef("joined_at")))
        in_time = Q(joined_at=None) | Q(joined_at__lte=OuterRef("due_at")) | Q(has_more_time)
        students = students.filter(in_time | Q(is_named))
    else:
        students = students.filter(is_named)
    by_class = students.order_by().values("schoolclass").annotate(counted=Count("pk")).values("counted")
    return Coalesce(Subquery(by_class, output_field=IntegerField()), 0)


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
