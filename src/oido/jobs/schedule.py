"""What a worker begins when it starts, and what is done once a day."""

from collections.abc import Callable
from datetime import timedelta

from django.utils import timezone

from oido.jobs.models import Job
from oido.jobs.services import ask_for

DUE: list[Callable[[], object]] = []
"""Apps add theirs: each asks for a job if there is something to do."""
EVERY_MINUTE: list[Callable[[], object]] = []
"""The same, at the start of a worker and then every minute."""
DAILY: list[str] = []
"""Kinds of jobs, without arguments, that are done once a day. Apps add theirs."""
DAY = timedelta(days=1)


def begin_due_jobs() -> None:
    for begin in (*DUE, *EVERY_MINUTE):
        begin()


def begin_each_minute() -> None:
    for begin in EVERY_MINUTE:
        begin()


def begin_daily() -> int:
    """Ask for what was not asked for within a day; how many. Two workers at once ask for one job: it has a key."""
    since = timezone.now() - DAY
    due = [kind for kind in DAILY if not Job.everywhere.filter(kind=kind, made_at__gte=since).exists()]
    for kind in due:
        ask_for(kind, key="daily")
    return len(due)
