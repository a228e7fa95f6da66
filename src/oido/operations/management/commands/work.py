"""A worker: django-tasks' own, with signs of life."""

import os
import resource
import threading
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

from oido.operations.helpers import leave
from oido.operations.looping import keep_beating
from oido.operations.models import Helper

NICENESS = 10
AUTOGROUP = Path("/proc/self/autogroup")
INTERVAL_S = 0.4
"""Between two looks into an empty queue: what somebody waits for begins at once."""


class Command(BaseCommand):
    help = "Does what waits in the background, until it is stopped. Any number may run, on any machine."

    def handle(self, *args: Any, **options: Any) -> None:
        # A job that asks for more fails with a MemoryError, and the machine's other processes keep their memory.
        resource.setrlimit(resource.RLIMIT_DATA, (settings.WORKER_MEMORY_BYTES,) * 2)
        # On a machine that also serves pages, what people have just sent is stored before anything is measured.
        _give_way()
        is_over = threading.Event()
        beating = threading.Thread(target=keep_beating, args=(Helper.Kind.WORKER, is_over), daemon=True)
        beating.start()
        try:
            call_command("db_worker", interval=INTERVAL_S, startup_delay=False, reload=False, verbosity=0)
        finally:
            is_over.set()
            leave(Helper.Kind.WORKER)


def _give_way() -> None:
    """Run at a lower priority, also where the system weighs whole sessions against each other and not processes."""
    os.nice(NICENESS)
    with suppress(OSError):
        AUTOGROUP.write_text(str(NICENESS))
