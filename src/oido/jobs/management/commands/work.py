"""A worker: django-tasks' own, which besides takes up what another one was stopped in."""

import threading
import time
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection

from oido.jobs import services
from oido.jobs.schedule import begin_daily, begin_due_jobs, begin_each_minute

LOOK_S = 10.0
MINUTE_S = 60.0
INTERVAL_S = 0.4
"""Between two looks into an empty queue: what somebody waits for begins at once."""


class Command(BaseCommand):
    help = "Does what waits in the background, until it is stopped. Any number may run, on any machine."

    def handle(self, *args: Any, **options: Any) -> None:
        begin_due_jobs()
        is_over = threading.Event()
        thread = threading.Thread(target=_look_after, args=(is_over,), daemon=True)
        thread.start()
        try:
            call_command("db_worker", interval=INTERVAL_S, startup_delay=False, reload=False, verbosity=0)
        finally:
            is_over.set()


def _look_after(is_over: threading.Event) -> None:
    try:
        services.take_up_stopped()
        last_minute = time.monotonic()
        while not is_over.wait(LOOK_S):
            services.take_up_stopped()
            services.forget_old()
            begin_daily()
            if time.monotonic() - last_minute >= MINUTE_S:
                last_minute = time.monotonic()
                begin_each_minute()
    finally:
        connection.close()
