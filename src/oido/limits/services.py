"""Count what is used, and say when it is too much."""

from datetime import timedelta

from django.db.models import BigIntegerField, Case, F, Q, Value, When
from django.utils import timezone

from oido.limits.models import Usage
from oido.limits.rules import LIMITS, Limit

LONGEST = max(limit.period for limit in LIMITS)


def count_use(limit: Limit, source: str, sent_bytes: int) -> timedelta | None:
    """Count one request; return how long its source has to wait if that would be one too many, else None.

    One statement counts it if there is room: two requests at once cannot both have the last place.
    """
    now = timezone.now()
    is_over = Q(period_began_at__lte=now - limit.period)
    has_room = Q(requests__lt=limit.requests)
    if limit.bytes is not None:
        has_room &= Q(bytes__lte=limit.bytes - sent_bytes)
    rows = Usage.objects.filter(limit=limit.name, source=source)
    for _attempt in range(2):
        # MariaDB assigns from left to right: the beginning of the period is the last to change.
        counted = rows.filter(is_over | has_room).update(
            requests=Case(When(is_over, then=1), default=F("requests") + 1, output_field=BigIntegerField()),
            bytes=Case(
                When(is_over, then=sent_bytes),
                default=F("bytes") + sent_bytes,
                output_field=BigIntegerField(),
            ),
            period_began_at=Case(When(is_over, then=Value(now)), default=F("period_began_at")),
        )
        if counted:
            return None
        used, is_first = Usage.objects.get_or_create(
            limit=limit.name, source=source, defaults={"requests": 1, "bytes": sent_bytes}
        )
        if is_first:
            return None
        # There is a row: full, or made by another request after this one looked for it. So it is asked once more.
    return max(used.period_began_at + limit.period - now, timedelta(seconds=1))


def forget_old_usage() -> int:
    """Delete counts whose period is over; return how many."""
    return Usage.objects.filter(period_began_at__lt=timezone.now() - LONGEST).delete()[0]
