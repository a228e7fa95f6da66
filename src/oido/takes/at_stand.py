"""What is kept of a student at the Stand: when they were there, and what they have set, for the person and for nobody else.

Names of settings that end in `@` and an id hold on the computer with that id alone, as the page has named it; all others
follow the person.
"""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from oido.assignments.models import Assignment
from oido.people.models import User
from oido.takes.models import StandSettings, Visit

FINE = timedelta(seconds=30)
"""No finer than this: a page that is loaded again and again writes nothing."""
MAX_KEPT = 300
"""Settings that are kept; beyond them the oldest go: the tempos of exercises that were played long ago."""

Kept = Mapping[str, tuple[float, Any]]
"""By name: when it was set, in ms by the clock of the machine, and what."""


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


def settings_of(student: User) -> dict[str, object]:
    row = StandSettings.objects.filter(student=student).first()
    return dict(row.kept) if row else {}


@transaction.atomic
def save_settings(student: User, sent: Kept) -> None:
    """Store settings. The newest value of each wins, because two machines may send at once."""
    if User.objects.select_for_update().filter(pk=student.pk).first() is None:
        return
    made, _ = StandSettings.objects.get_or_create(student=student)
    kept = dict(made.kept)
    for name, (at, value) in sent.items():
        if name not in kept or kept[name][0] <= at:
            kept[name] = [at, value]
    newest = sorted(kept.items(), key=lambda pair: -pair[1][0])[:MAX_KEPT]
    made.kept = dict(newest)
    made.save(update_fields=["kept", "changed_at"])
