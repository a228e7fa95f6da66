"""What is done in the background: `manage.py work`, started beside the server."""

import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import close_old_connections

from oido.marking import remarking, remeasuring

WAIT_S = 0.7


class Command(BaseCommand):
    help = "Does what waits in the background, until it is stopped."

    def handle(self, *args: Any, **options: Any) -> None:
        remeasuring.begin_if_due()
        while True:
            close_old_connections()
            # Marks are made of what is measured: that comes first.
            if not (remeasuring.work_once() or remarking.work_once()):
                time.sleep(WAIT_S)
