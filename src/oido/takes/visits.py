"""Keep in mind when a student was at the Stand."""

from datetime import timedelta

from django.db.models import F
from django.utils import timezone

from oido.assignments.models import Assignment
from oido.people.models import User
from oido.takes.models import Visit

FINE = timedelta(seconds=30)
"""No finer than this: a page that is loaded again and again writes nothing."""


def opened(student: User, assignment: Assignment) -> Visit:
    now = timezone.now()
    visit, is_new = Visit.objects.get_or_create(
        assignment=assignment, student=student, defaults={"opened_at": now, "last_at": now}
    )
    if not is_new and now - visit.last_at > FINE:
        Visit.objects.filter(pk=visit.pk).update(last_at=now)
    return visit


def practised(student: User, assignment: Assignment) -> None:
    """Record that a loop was played."""
    now = timezone.now()
    rows = Visit.objects.filter(assignment=assignment, student=student)
    if not rows.update(last_at=now, practised_at=now, loops=F("loops") + 1):
        Visit.objects.get_or_create(
            assignment=assignment, student=student,
            defaults={"opened_at": now, "last_at": now, "practised_at": now, "loops": 1},
        )  # fmt: skip
