"""Ask for a job, do it, take up those whose worker was stopped."""

import logging
import math
import threading
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from datetime import timedelta
from typing import Any

from django.db import connection, transaction
from django.db.models import F, Q
from django.utils import timezone
from django.utils.translation import get_language, ngettext, override
from django.utils.translation import gettext as _
from structlog.contextvars import bound_contextvars

from oido.jobs.kinds import KINDS, JobProblem, MadeFile
from oido.jobs.models import Job
from oido.jobs.time_limit import OutOfTime, at_most
from oido.people.models import School, User
from oido.people.scope import Scope, within

BEAT_S = 5.0
"""Between two signs of life."""
SILENT_AFTER = timedelta(seconds=30)
"""After so long without a sign of life a worker has been stopped."""
LOST_AFTER = timedelta(minutes=1)
"""After so long a waiting job is put into the queue again: its way there may have been cut off. To be in it twice
is harmless."""
KEPT = timedelta(days=1)
"""How long what was made can be fetched."""
State = Job.State
OPEN = (State.WAITING, State.RUNNING)
logger = logging.getLogger(__name__)


def ask_for(
    kind: str, *, owner: User | None = None, school: School | None = None, key: str = "", title: str = "",
    back: str = "", **arguments: Any,
) -> Job:  # fmt: skip
    """Put a job into the queue, to be done once this transaction is over. One with a key is put in once.

    It is done in `school`, or in that of its owner; one that has neither goes through all schools by itself.
    """
    with transaction.atomic():
        if key:
            if owner is not None:
                # Two clicks at once are one job: whoever asks second waits here.
                User.objects.select_for_update().get(pk=owner.pk)
            known: Job | None = Job.everywhere.filter(kind=kind, key=key, owner=owner, state__in=OPEN).first()
            if known is not None:
                return known
        where = school or (owner.school if owner is not None else None)
        made: Job = Job.everywhere.create(
            kind=kind,
            arguments=arguments,
            key=key,
            owner=owner,
            school=where,
            title=title[:200],
            back=back[:300],
        )
        transaction.on_commit(lambda: _enqueue(made))
    return made


def _enqueue(job: Job) -> None:
    from oido.jobs.tasks import do_job

    do_job.enqueue(str(job.pk))


def do(pk: str) -> None:
    """Run a job, unless another worker is running it or it is finished."""
    taken = Job.everywhere.filter(pk=pk, state=State.WAITING).update(
        state=State.RUNNING, tries=F("tries") + 1, beat_at=timezone.now()
    )
    if not taken:
        return
    job = Job.everywhere.defer("file").select_related("school", "owner").get(pk=pk)
    with override(_language_of(job)):
        _run(job)


def _language_of(job: Job) -> str | None:
    """Return the language that the job's owner reads, or else the school's."""
    chosen = job.owner.language if job.owner is not None else ""
    return chosen or (job.school.language if job.school is not None else get_language())


def _run(job: Job) -> None:
    pk, kind = str(job.pk), KINDS[job.kind]

    def progress(done: int, total: int) -> None:
        Job.everywhere.filter(pk=pk).update(done=done, total=total, beat_at=timezone.now())

    try:
        with bound_contextvars(job=pk, kind=job.kind), _beating(pk), _scope_of(job), at_most(kind.max_s):
            outcome = kind.run(progress, **job.arguments)
    except JobProblem as problem:
        _end(job, State.FAILED, problem=str(problem))
    except OutOfTime:
        logger.warning("job %s stopped: %s ran for more than %s s", pk, job.kind, kind.max_s)
        minutes = math.ceil(kind.max_s / 60)
        _end(
            job,
            State.FAILED,
            problem=ngettext(
                "This took longer than a minute, so it was stopped. Try it in smaller parts.",
                "This took longer than %(minutes)s minutes, so it was stopped. Try it in smaller parts.",
                minutes,
            )
            % {"minutes": minutes},
        )
    except MemoryError:
        logger.warning("job %s stopped: %s needs more memory than a worker has", pk, job.kind)
        _end(
            job,
            State.FAILED,
            problem=_("This is too large to do in one go. Try it in smaller parts."),
        )
    except Exception:
        logger.exception("job %s failed: %s, try %s", pk, job.kind, job.tries)
        if job.tries < kind.tries:
            Job.everywhere.filter(pk=pk).update(state=State.WAITING)
            _enqueue(job)
        else:
            _end(job, State.FAILED)
    else:
        _end(job, State.DONE, file=outcome)


def _scope_of(job: Job) -> AbstractContextManager[Any]:
    scope: AbstractContextManager[Any] = job.school.within() if job.school else within(Scope.UNNAMED)
    return scope


def _end(job: Job, state: str, *, problem: str = "", file: MadeFile | None = None) -> None:
    made = {"file": file.data, "file_name": file.name, "file_type": file.content_type} if file else {}
    Job.everywhere.filter(pk=job.pk).update(
        state=state, problem=problem[:300], ended_at=timezone.now(), **made
    )


@contextmanager
def _beating(pk: str) -> Iterator[None]:
    """Signs of life while something is done, however long a single step takes."""
    is_over = threading.Event()

    def beat() -> None:
        try:
            while not is_over.wait(BEAT_S):
                Job.everywhere.filter(pk=pk).update(beat_at=timezone.now())
        finally:
            connection.close()

    thread = threading.Thread(target=beat, daemon=True)
    thread.start()
    try:
        yield
    finally:
        is_over.set()
        thread.join()


def take_up_stopped() -> int:
    """Put jobs whose worker was stopped back into the queue, and those that were lost on the way to it; how
    many. Once too often, and they have failed."""
    silent = timezone.now() - SILENT_AFTER
    count = 0
    for job in Job.everywhere.defer("file").filter(state=State.RUNNING, beat_at__lt=silent):
        kind = KINDS.get(job.kind)
        is_last = kind is None or job.tries >= kind.tries
        changed = Job.everywhere.filter(pk=job.pk, state=State.RUNNING, beat_at=job.beat_at).update(
            state=State.FAILED if is_last else State.WAITING, beat_at=timezone.now()
        )
        if changed and not is_last:
            _enqueue(job)
            count += 1
    before = timezone.now() - LOST_AFTER
    is_lost = Q(beat_at__isnull=True, made_at__lt=before) | Q(beat_at__lt=before)
    for job in Job.everywhere.defer("file").filter(is_lost, state=State.WAITING):
        waits = Job.everywhere.filter(pk=job.pk, state=State.WAITING, beat_at=job.beat_at)
        if waits.update(beat_at=timezone.now()):
            _enqueue(job)
            count += 1
    return count


def forget_old() -> int:
    """Delete what is over and was not fetched in time; how many."""
    old = timezone.now() - KEPT
    return Job.everywhere.filter(state__in=(State.DONE, State.FAILED), ended_at__lt=old).delete()[0]
