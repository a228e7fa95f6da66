from django.db.models import Count, Q, QuerySet

from oido.assignments.models import Assignment
from oido.exercises.models import Exercise
from oido.people.models import User


def visible_assignments(user: User) -> QuerySet[Assignment]:
    """Those of the classes that a teacher teaches or a student attends; a head's, of the whole school."""
    assignments = Assignment.objects.select_related("exercise", "school_class").filter(school=user.school_id)
    if user.is_head:
        return assignments
    if user.is_teacher:
        return assignments.filter(school_class__teachers=user)
    return assignments.filter(school_class__students=user)


def assignments_of_exercise(user: User, exercise: Exercise) -> QuerySet[Assignment]:
    return with_counts(visible_assignments(user).filter(exercise=exercise))


def with_counts(assignments: QuerySet[Assignment]) -> QuerySet[Assignment]:
    """`handed_in` and `waiting` (handed in, and the teacher has not decided yet), `students` of the class."""
    handed_in = Q(takes__handed_in_at__isnull=False)
    undecided = Q(
        takes__sheet__released_at__isnull=True,
        takes__sheet__accepted_at__isnull=True,
        takes__sheet__asked_again_at__isnull=True,
        takes__student__erased_as="",
    )
    return assignments.annotate(
        handed_in=Count("takes", filter=handed_in, distinct=True),
        waiting=Count("takes", filter=handed_in & undecided, distinct=True),
        students=Count("school_class__students", distinct=True),
    )
