"""Signs of life of workers and schedulers."""

import os
import socket
from contextlib import suppress
from datetime import timedelta

from django.db import DatabaseError
from django.utils import timezone

from oido.operations.models import Helper

BEAT_S = 10.0
SILENT_AFTER = timedelta(seconds=45)
"""After so long without a sign of life a helper is not there any more, or hangs."""
FORGOTTEN_AFTER = timedelta(days=1)


def _own_name() -> str:
    return f"{socket.gethostname()[:100]} {os.getpid()}"


def beat(kind: str) -> None:
    """Leave a sign of life of this process."""
    now = timezone.now()
    Helper.objects.update_or_create(kind=kind, name=_own_name(), defaults={"beat_at": now})


def leave(kind: str) -> None:
    """Say that this process ends. Where the database is away, its silence says so."""
    with suppress(DatabaseError):
        Helper.objects.filter(kind=kind, name=_own_name()).delete()


def count_alive(kind: str) -> int:
    """Return how many helpers of a kind are alive."""
    return Helper.objects.filter(kind=kind, beat_at__gte=timezone.now() - SILENT_AFTER).count()


def forget_ended() -> None:
    """Forget helpers that ended without a word, long ago."""
    Helper.objects.filter(beat_at__lt=timezone.now() - FORGOTTEN_AFTER).delete()
