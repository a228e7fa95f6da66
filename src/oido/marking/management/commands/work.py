"""What is done in the background: `manage.py work`, started beside the server."""

import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import close_old_connections

from oido.marking.remarking import work_once

WAIT_S = 0.7


class Command(BaseCommand):
    help = "Does what waits in the background, until it is stopped."

    def handle(self, *args: Any, **options: Any) -> None:
        while True:
            close_old_connections()
            if not work_once():
                time.sleep(WAIT_S)
