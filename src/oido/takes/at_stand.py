"""What is kept of a student at the Stand: when they were there, and what they have set, for the person and for nobody else.

Names of settings that end in `@` and an id hold on the computer with that id alone, as the page has named it; all others
follow the person.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from oido.assignments.models import Assignment
from oido.people.models import User
from oido.takes.models import PracticeDay, StandSettings, Visit

FINE = timedelta(seconds=30)
"""No finer than this: a page that is loaded again and again writes nothing."""
LONGEST_S = 600.0
"""No loop counts for more: a page may have been left open."""
MAX_PASSAGES = 200
LONGEST_ROW = 400
"""Days that are looked back."""
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


@transaction.atomic
def practised(student: User, assignment: Assignment, *, bars: tuple[int, int], seconds: float) -> None:
    """Record that bars were practised for so long."""
    now = timezone.now()
    rows = Visit.objects.filter(assignment=assignment, student=student)
    counted = {"last_at": now, "practised_at": now, "loops": F("loops") + 1}
    if not rows.update(**counted):
        # Another window may have begun the visit meanwhile: this one is counted all the same.
        Visit.objects.get_or_create(
            assignment=assignment, student=student, defaults={"opened_at": now, "last_at": now}
        )
        rows.update(**counted)
    today, _ = PracticeDay.objects.select_for_update().get_or_create(
        student=student, day=timezone.localdate(now)
    )
    today.seconds += min(LONGEST_S, max(0.0, seconds))
    passage = [assignment.pk, *bars]
    if passage not in today.passages:
        today.passages = [*today.passages, passage][-MAX_PASSAGES:]
    today.save()


@dataclass(frozen=True, slots=True, kw_only=True)
class PracticeRecord:
    """How a student has practised: today, and how many days in a row."""

    minutes_today: int
    days_in_a_row: int
    """Up to today or, as long as today is not over, up to yesterday."""
    passages: list[tuple[int, int, int]]
    """Today's: assignment, first and last bar."""


def practice_record(student: User) -> PracticeRecord:
    """Return how a student has practised. It is for this student alone."""
    today = timezone.localdate()
    days = {
        row.day: row
        for row in PracticeDay.objects.filter(student=student, day__gt=today - timedelta(days=LONGEST_ROW))
    }
    day, row_length = today if today in days else today - timedelta(days=1), 0
    while day in days:
        day, row_length = day - timedelta(days=1), row_length + 1
    now = days.get(today)
    return PracticeRecord(
        minutes_today=math.ceil(now.seconds / 60) if now else 0,
        days_in_a_row=row_length,
        passages=[(pk, first, last) for pk, first, last in now.passages] if now else [],
    )


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
