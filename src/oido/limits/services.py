"""Count what is used, and say when it is too much."""

from datetime import timedelta

from django.db.models import BigIntegerField, Case, F, Q, Value, When
from django.utils import timezone

from oido.limits.models import Usage
from oido.limits.rules import LIMITS, Limit

LONGEST = max(limit.period for limit in LIMITS)


def count_use(limit: Limit, source: str, sent_bytes: int) -> timedelta | None:
    """Count one request; return how long its source has to wait if that was one too many, else None.

    A request that is refused counts too, so that nobody gets through by asking without a pause. The row is changed by one
    statement: two requests at once are both counted.
    """
    now = timezone.now()
    is_over = Q(period_began_at__lte=now - limit.period)
    rows = Usage.objects.filter(limit=limit.name, source=source)
    # MariaDB assigns from left to right: the beginning of the period is the last to change.
    counted = rows.update(
        requests=Case(When(is_over, then=1), default=F("requests") + 1, output_field=BigIntegerField()),
        bytes=Case(
            When(is_over, then=sent_bytes), default=F("bytes") + sent_bytes, output_field=BigIntegerField()
        ),
        period_began_at=Case(When(is_over, then=Value(now)), default=F("period_began_at")),
    )
    if not counted:
        Usage.objects.get_or_create(
            limit=limit.name, source=source, defaults={"requests": 1, "bytes": sent_bytes}
        )
        return None
    used = rows.get()
    is_too_much = used.requests > limit.requests or (limit.bytes is not None and used.bytes > limit.bytes)
    return max(used.period_began_at + limit.period - now, timedelta(seconds=1)) if is_too_much else None


def forget_old_usage() -> int:
    """Delete counts whose period is over; return how many."""
    return Usage.objects.filter(period_began_at__lt=timezone.now() - LONGEST).delete()[0]
