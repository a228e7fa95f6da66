from django.db.models import QuerySet

from oido.assignments.models import Assignment
from oido.people.models import User
from oido.takes.models import Take
from oido.takes.queries import visible_takes


def waiting_takes(teacher: User) -> QuerySet[Take]:
    """Handed in and not yet released, the one due first ahead."""
    return (
        visible_takes(teacher)
        .filter(sheet__released_at__isnull=True)
        .prefetch_related(None)
        .defer("events", "part__data", "part__source_file")
        .order_by("assignment__due_at", "assignment_id", "handed_in_at")
    )


def handed_in_takes(assignment: Assignment) -> QuerySet[Take]:
    return (
        Take.objects.filter(assignment=assignment, handed_in_at__isnull=False)
        .select_related("student", "measurement")
        .defer("events")
        .order_by("student__last_name", "student__first_name")
    )
