"""What is done again and again beside the server: signs of life, and what falls due. A database that is away is waited for."""

import logging
import threading
import time
from collections.abc import Callable

from django.core.management import call_command
from django.db import DatabaseError, connection

from oido.jobs import services
from oido.jobs.schedule import begin_daily, begin_due_jobs, begin_each_minute
from oido.operations.helpers import BEAT_S, beat, forget_ended
from oido.operations.models import Helper

MINUTE_S = 60.0
TASK_DAYS = 1
LOCK = "oido-schedule"
"""A lock of the database's own: it is free again as soon as who holds it is gone, however that came about."""
logger = logging.getLogger(__name__)


def again_and_again(act: Callable[[], object], is_over: threading.Event, *, every_s: float = BEAT_S) -> None:
    """Act now and then every so often, until it is over. While the database is away or refuses, that is logged once."""
    has_failed = False
    while True:
        try:
            act()
            has_failed = False
        except DatabaseError as problem:
            if not has_failed:
                logger.warning("the database did not do what was due, so it is asked again: %s", problem)
            has_failed = True
            connection.close()
        if is_over.wait(every_s):
            return


def keep_beating(kind: str, is_over: threading.Event) -> None:
    """Leave signs of life until it is over."""
    try:
        again_and_again(lambda: beat(kind), is_over)
    finally:
        connection.close()


def forget_done_tasks() -> None:
    """Forget tasks of the queue that were over long ago: each take leaves one."""
    call_command("prune_db_task_results", queue_name="*", min_age_days=TASK_DAYS, verbosity=0)


class Schedule:
    """What falls due, begun by one of those that could: of several schedulers one holds the lock, and the others wait."""

    def __init__(self) -> None:
        self.is_leading = False
        self.minute_at = 0.0

    def turn(self) -> None:
        """One look at what falls due. Raises DatabaseError, after which another scheduler may lead."""
        beat(Helper.Kind.SCHEDULER)
        try:
            self._lead()
        except DatabaseError:
            self.is_leading = False
            raise

    def _lead(self) -> None:
        if not self._has_lock():
            self.is_leading = False
            return
        if not self.is_leading:
            begin_due_jobs()
            self.is_leading, self.minute_at = True, time.monotonic()
        services.take_up_stopped()
        services.forget_old()
        begin_daily()
        if time.monotonic() - self.minute_at >= MINUTE_S:
            self.minute_at = time.monotonic()
            begin_each_minute()
            forget_ended()
            forget_done_tasks()

    def _has_lock(self) -> bool:
        with connection.cursor() as cursor:
            if self.is_leading:
                # A connection that was lost and opened again has lost the lock with it.
                cursor.execute("SELECT IS_USED_LOCK(%s) = CONNECTION_ID()", [LOCK])
                if cursor.fetchone()[0]:
                    return True
            cursor.execute("SELECT GET_LOCK(%s, 0)", [LOCK])
            return bool(cursor.fetchone()[0])
