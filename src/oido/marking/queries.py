from django.db.models import QuerySet

from oido.assignments.models import Assignment
from oido.takes.models import Take


def handed_in_takes(*assignments: Assignment) -> QuerySet[Take]:
    return (
        Take.objects.filter(assignment__in=assignments, handed_in_at__isnull=False)
        .select_related(
            "student",
            "judgement__measurement",
            "judgement__rubric",
            "sheet",
            "assignment__exercise",
            "part__exercise",
        )
        .defer("events", "part__source_file")
        .order_by("student__last_name", "student__first_name", "number")
    )
