"""How this installation is: what `/ready/` answers, and what a check from outside is told."""

import shutil
import socket
import tempfile
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, timedelta
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone

from oido.jobs.models import Job
from oido.operations.helpers import count_alive
from oido.operations.models import Helper
from oido.post.models import Email
from oido.takes.models import Take

MAX_QUEUE_AGE = timedelta(minutes=10)
MIN_FREE_BYTES, LOW_FREE_BYTES = 100_000_000, 2_000_000_000
MAX_BACKUP_AGE = timedelta(hours=26)
"""A daily one that takes its time."""
MAIL_S = 5.0
MAX_CLOCK_S = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """One thing that should be so. Without a vital one no page can be served."""

    name: str
    is_well: bool
    is_vital: bool
    words: str
    """What is so, for who looks after the machine."""


def conditions(*, with_mail: bool = False) -> list[Condition]:
    """Return how everything is. Where the database is away, nothing that asks it is looked at. `with_mail` knocks at the
    mail server, which takes seconds if it is away."""
    database = _database()
    seen = [database, _disk()]
    if database.is_well:
        seen += [_looked("migrations", _migrations), _looked("queue", _queue), *_helpers(), _backup()]
    return [*seen, _mail()] if with_mail else seen


def _looked(name: str, look: Callable[[], Condition]) -> Condition:
    try:
        return look()
    except DatabaseError as problem:
        return Condition(name=name, is_well=False, is_vital=True, words=f"cannot be asked: {problem}"[:200])


def _database() -> Condition:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        return Condition(name="database", is_well=True, is_vital=True, words="answers")
    except DatabaseError as problem:
        connection.close()
        return Condition(
            name="database", is_well=False, is_vital=True, words=f"does not answer: {problem}"[:200]
        )


_has_all_migrations = False


def _migrations() -> Condition:
    # A process's code does not change: what has once been applied stays so.
    global _has_all_migrations
    missing = []
    if not _has_all_migrations:
        executor = MigrationExecutor(connection)
        missing = executor.migration_plan(executor.loader.graph.leaf_nodes())
        _has_all_migrations = not missing
    words = f"{len(missing)} not applied; run ./oido migrate" if missing else "all applied"
    return Condition(name="migrations", is_well=not missing, is_vital=True, words=words)


def _queue() -> Condition:
    oldest = (
        Job.everywhere.filter(state=Job.State.WAITING)
        .order_by("made_at")
        .values_list("made_at", flat=True)
        .first()
    )
    age = timezone.now() - oldest if oldest else timedelta()
    words = f"the oldest job waits for {age.total_seconds():.0f} s" if oldest else "empty"
    return Condition(name="queue", is_well=age <= MAX_QUEUE_AGE, is_vital=False, words=words)


def _helpers() -> list[Condition]:
    counts = ((kind, count_alive(kind)) for kind in Helper.Kind.values)
    return [
        Condition(name=f"{kind}s", is_well=count > 0, is_vital=False, words=f"{count} alive")
        for kind, count in counts
    ]


def _disk() -> Condition:
    """The fullest of the disks that this process writes to."""
    folders = [
        Path(tempfile.gettempdir()),
        *(f for f in (settings.EMAIL_FILE_PATH, settings.BACKUP_FOLDER) if f),
    ]
    free = min(shutil.disk_usage(_standing(Path(folder))).free for folder in folders)
    return Condition(
        name="disk",
        is_well=free >= LOW_FREE_BYTES,
        is_vital=free < MIN_FREE_BYTES,
        words=f"{free / 1e9:.1f} GB free",
    )


def _standing(folder: Path) -> Path:
    """The folder, or the nearest one above it that is there already."""
    return next(place for place in (folder, *folder.parents) if place.exists())


def _backup() -> Condition:
    folder = settings.BACKUP_FOLDER
    if folder is None:
        return Condition(name="backup", is_well=False, is_vital=False, words="OIDO_BACKUPS is not set")
    newest = max((file.stat().st_mtime for file in folder.glob("oido-*") if file.is_file()), default=None)
    if newest is None:
        return Condition(name="backup", is_well=False, is_vital=False, words=f"none in {folder}")
    age = timedelta(seconds=timezone.now().timestamp() - newest)
    words = f"the newest is {age.total_seconds() / 3600:.0f} h old"
    return Condition(name="backup", is_well=age <= MAX_BACKUP_AGE, is_vital=False, words=words)


def _mail() -> Condition:
    if settings.MAIL_GOES_TO_FILES:
        return Condition(
            name="mail", is_well=False, is_vital=False, words="OIDO_MAIL_HOST is not set: letters go to files"
        )
    where = (settings.EMAIL_HOST, settings.EMAIL_PORT)
    try:
        socket.create_connection(where, timeout=MAIL_S).close()
    except OSError as problem:
        return Condition(
            name="mail",
            is_well=False,
            is_vital=False,
            words=f"{where[0]}:{where[1]} does not answer: {problem}",
        )
    return Condition(name="mail", is_well=True, is_vital=False, words=f"{where[0]}:{where[1]} answers")


def deeper_conditions() -> list[Condition]:
    """Return what `./oido doctor` looks at besides: what piles up, and what is shipped. Needs the database."""
    return [
        _looked("clock", _clock),
        _looked("takes", _unmeasured),
        _looked("jobs", _failed_jobs),
        _looked("letters", _unsent),
        _shipped(),
    ]


def _clock() -> Condition:
    with connection.cursor() as cursor:
        cursor.execute("SELECT UTC_TIMESTAMP(6)")
        theirs = cursor.fetchone()[0].replace(tzinfo=UTC)
    off = abs((timezone.now() - theirs).total_seconds())
    words = f"{off:.1f} s between this machine and the database's"
    is_well = off <= MAX_CLOCK_S
    return Condition(
        name="clock",
        is_well=is_well,
        is_vital=False,
        words=words if is_well else f"{words}; let both follow a time server",
    )


def _unmeasured() -> Condition:
    since = timezone.now() - MAX_QUEUE_AGE
    count = Take.everywhere.filter(measure_after__lt=since).count()
    words = (
        f"{count} wait to be measured; are workers and the scheduler running?"
        if count
        else "all are measured"
    )
    return Condition(name="takes", is_well=not count, is_vital=False, words=words)


def _failed_jobs() -> Condition:
    since = timezone.now() - timedelta(days=1)
    failed = Job.everywhere.filter(state=Job.State.FAILED, ended_at__gte=since)
    kinds = Counter(failed.values_list("kind", flat=True))
    words = ", ".join(f"{count} × {kind}" for kind, count in sorted(kinds.items()))
    return Condition(
        name="jobs", is_well=not kinds, is_vital=False,
        words=f"failed within a day: {words}; the log of the worker says why" if kinds else "none failed within a day",
    )  # fmt: skip


def _unsent() -> Condition:
    count = Email.everywhere.filter(state=Email.State.FAILED).count()
    words = f"{count} could not be sent; the head's Outbox has them" if count else "all are sent"
    return Condition(name="letters", is_well=not count, is_vital=False, words=words)


def _shipped() -> Condition:
    """Sounds and typefaces, without which pages and papers are poorer."""
    missing = [file.name for file in (settings.SOUND_BANK, settings.TYPEFACES) if not file.exists()]
    words = (
        f"missing: {', '.join(missing)}; run ./oido install" if missing else "sounds and typefaces are there"
    )
    return Condition(name="assets", is_well=not missing, is_vital=False, words=words)
