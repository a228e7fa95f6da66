"""Days as moments, by the clock of the school in which something is done."""

from datetime import date, datetime, time

from django.utils import timezone

LAST_MINUTE = time(23, 59)


def begin_of(day: date) -> datetime:
    """Return the first moment of a day."""
    return timezone.make_aware(datetime.combine(day, time.min))


def end_of(day: date) -> datetime:
    """Return the last moment of a day."""
    return timezone.make_aware(datetime.combine(day, time.max))


def due_on(day: date) -> datetime:
    """Return the due time for a due day: 23:59 on that day."""
    return timezone.make_aware(datetime.combine(day, LAST_MINUTE))
