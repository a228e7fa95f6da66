"""Days as moments, by the clock of the school in which something is done."""

from datetime import date, datetime, time

from django.utils import timezone

LAST_MINUTE = time(23, 59)


def begin_of(day: date) -> datetime:
    """The first moment of a day."""
    return timezone.make_aware(datetime.combine(day, time.min))


def end_of(day: date) -> datetime:
    """The last moment of a day."""
    return timezone.make_aware(datetime.combine(day, time.max))


def due_on(day: date) -> datetime:
    """When something is due that is due on a day: its last minute, as people write it."""
    return timezone.make_aware(datetime.combine(day, LAST_MINUTE))
