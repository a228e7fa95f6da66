"""The scheduler: begins what falls due, and takes up what a worker was stopped in."""

import signal
import threading
from typing import Any

from django.core.management.base import BaseCommand

from oido.operations.helpers import leave
from oido.operations.looping import Schedule, again_and_again
from oido.operations.models import Helper


class Command(BaseCommand):
    help = "Begins what falls due, until it is stopped. Of several, on any machines, one does it at a time."

    def handle(self, *args: Any, **options: Any) -> None:
        is_over = threading.Event()
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: is_over.set())
        try:
            again_and_again(Schedule().turn, is_over)
        finally:
            leave(Helper.Kind.SCHEDULER)
