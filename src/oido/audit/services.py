"""Remember who did what, for as long as that is of use."""

from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.utils import timezone

from oido.audit.acts import ACTS
from oido.audit.models import Act
from oido.audit.where import address
from oido.people.models import School, SchoolClass, User


def remember(
    code: str,
    *,
    actor: User | None,
    school: School | None = None,
    person: User | None = None,
    school_class: SchoolClass | None = None,
    **values: Any,
) -> None:
    """Add a line to the trail in the same transaction as the change, so that both are stored or neither.

    The line belongs to the actor's school unless another is named. An actor without a school leaves no line.
    """
    assert code in ACTS, code
    where = school or (actor.school if actor is not None else None)
    if where is None:
        return
    Act.objects.create(
        school=where,
        code=code,
        actor=actor,
        person=person,
        school_class=school_class,
        values=values,
        address=address(),
    )


BATCH = 5_000
DAYS_OF_MONTH = 30.5


def forget_old_acts() -> int:
    """Delete lines of the trail of the current school that are too old, and the addresses of others; return how many lines.

    In batches, so that nobody who does something meanwhile has to wait for a long transaction.
    """
    Act.objects.filter(at__lt=_months_ago(settings.TRAIL_ADDRESS_MONTHS)).exclude(address=None).update(
        address=None
    )
    count = 0
    while old := Act.objects.filter(at__lt=_months_ago(settings.TRAIL_MONTHS)).values_list("pk", flat=True)[
        :BATCH
    ]:
        count += Act.objects.filter(pk__in=[*old]).delete()[0]
    return count


def _months_ago(months: int) -> datetime:
    return timezone.now() - timedelta(days=DAYS_OF_MONTH * months)
