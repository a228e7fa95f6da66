"""Stored takes measured again after a new version of the measuring.

Done in the background, a take at a time (`oido.marking.background`), so that it goes on where a worker stopped, and a
page can say how far it is. Marks that students have seen stay: what the new version makes of them is
proposed, and a teacher agrees, or does not.
"""

import logging
from datetime import timedelta

from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.utils import timezone

from ear.extraction.extraction import VERSION
from ear.facts.facts import Facts
from oido.common.permissions import NotAllowed
from oido.jobs.kinds import Progress
from oido.jobs.services import ask_for
from oido.marking.hand_in import imprints_of_others
from oido.marking.models import MarkSheet, Remeasuring
from oido.marking.services import locked_to_mark, may_mark
from oido.marking.sheets import conclude_mark
from oido.people.models import User
from oido.takes.judging import add_judgement, judged, point_at, store_measurement
from oido.takes.models import Judgement, Take
from oido.takes.services import (
    MEASURE_WAITING,
    TakeIsGone,
    measure_soon,
    measured_and_stored,
    store_judgement,
)
from oido.takes.sizes import is_long

GRACE = timedelta(seconds=20)
"""So long whoever stored a take is left to measure it."""
PUT_OFF = timedelta(minutes=30)
"""After a failure."""
logger = logging.getLogger(__name__)


def to_measure() -> QuerySet[Take]:
    """Return the takes of all schools that this version has not measured."""
    return Take.everywhere.filter(student__erased_as="").exclude(measurements__version=VERSION)


def begin_if_due() -> Remeasuring | None:
    """Return this version's job if there is something to do, made once however many workers ask."""
    known = Remeasuring.objects.filter(version=VERSION).first()
    if known is not None:
        if known.ended_at is not None:
            return None
        ask_for("marking.measure_again", key=VERSION, version=VERSION)
        return known
    count = to_measure().count()
    if not count:
        return None
    try:
        with transaction.atomic():
            made = Remeasuring.objects.create(version=VERSION, takes=count)
            ask_for("marking.measure_again", key=VERSION, version=VERSION)
            return made
    except IntegrityError:
        return Remeasuring.objects.get(version=VERSION)


def going_on() -> Remeasuring | None:
    """Return the progress of the job, to be shown while it runs."""
    return Remeasuring.objects.filter(version=VERSION, ended_at__isnull=True).first()


def step(version: str = VERSION) -> bool:
    """Measure the next take of an open job; False where there is nothing left."""
    job = Remeasuring.objects.filter(version=version, ended_at__isnull=True).first()
    if job is None or version != VERSION:
        return False
    waiting = to_measure().exclude(pk__in=job.failed).order_by("recorded_at", "pk")
    take = waiting.select_related("school").only("pk", "school").first()
    if take is None:
        Remeasuring.objects.filter(pk=job.pk).update(ended_at=timezone.now())
        logger.info("takes measured again by version %s: %s", VERSION, job.done)
        return True
    try:
        with take.school.within():
            measured_and_stored(take, store_anew)
    except TakeIsGone:
        return True
    except Exception:
        # Whatever it was, it must not hold up the others; its page says that it cannot be read.
        logger.exception("take %s could not be measured again", take.pk)
        job.failed = [*job.failed, str(take.pk)]
    job.done += 1
    job.takes = max(job.takes, job.done)
    job.save(update_fields=["failed", "done", "takes"])
    return True


def measure_waiting(progress: Progress) -> int:
    """Measure takes of all schools whose measuring was cut off, one at a time; return how many."""
    count = 0
    while (take := _next_waiting()) is not None:
        # Put off first: one that brings the process down must not do so again at once.
        Take.everywhere.filter(pk=take.pk).update(measure_after=timezone.now() + PUT_OFF)
        with take.school.within():
            try:
                whole = Take.objects.get(pk=take.pk)
                others = imprints_of_others(whole) if whole.is_handed_in else ()
                measured_and_stored(whole, store_anew, others=others)
                count += 1
            except (TakeIsGone, Take.DoesNotExist):
                pass
            except Exception:
                logger.exception("take %s could not be measured; it is tried again later", take.pk)
        progress(count, 0)
    return count


def _next_waiting() -> Take | None:
    waiting = Take.everywhere.filter(measure_after__lt=timezone.now() - GRACE, student__erased_as="")
    return waiting.select_related("school").only("pk", "school").order_by("measure_after").first()


def ask_to_measure_waiting() -> None:
    """Ask for the takes whose measuring was cut off to be measured, if there are any."""
    if _next_waiting() is not None:
        ask_for(MEASURE_WAITING, key="waiting")


def store_anew(take: Take, facts: Facts) -> None:
    """Store the new version's judgement of a locked take.

    It counts at once, or is proposed if students have seen a mark.
    """
    current = take.judgement
    version = current.rubric if current else take.assignment.rubric
    count_or_propose(take, add_judgement(take, store_measurement(take, facts), facts, version))


def count_or_propose(take: Take, made: Judgement) -> None:
    """Let a new judgement of a locked take count; where students have seen the mark, propose it to the teacher."""
    current = take.judgement
    sheet = MarkSheet.objects.select_for_update().filter(take=take).first()
    if sheet is not None and sheet.is_released and current is not None:
        point_at(take, judgement=current, proposed=made)
        return
    point_at(take, judgement=made, proposed=None)
    if sheet is not None:
        conclude_mark(sheet, take)


@transaction.atomic
def judge_anew(take: Take) -> None:
    """Judge a take again by what was measured in it, since what is said of notes has changed; nothing is measured."""
    locked = Take.objects.select_for_update().filter(pk=take.pk).first()
    current = locked.judgement if locked is not None else None
    if locked is None or current is None or not judged(locked).is_readable:
        return
    facts = judged(locked).facts
    count_or_propose(locked, add_judgement(locked, current.measurement, facts, current.rubric))


@transaction.atomic
def agree(teacher: User, take: Take, *, shown: str | None = None) -> None:
    """Let the new version's judgement count, with the teacher's changes over it."""
    locked = locked_to_mark(teacher, take, shown=shown)
    if locked.proposed is None:
        return
    locked.judgement, locked.proposed = locked.proposed, None
    locked.save(update_fields=["judgement", "proposed"])
    conclude_mark(locked.sheet, locked)
    logger.info("take %s: mark by version %s agreed to by %s", take.pk, VERSION, teacher.pk)


@transaction.atomic
def decline(teacher: User, take: Take, *, shown: str | None = None) -> None:
    """Keep the mark that students have seen."""
    locked = locked_to_mark(teacher, take, shown=shown)
    locked.proposed = None
    locked.save(update_fields=["proposed"])


def may_measure(user: User, take: Take) -> bool:
    """Return whether the take may be measured again.

    One that cannot be read may not, and a mark that students have seen is for its teachers to replace.
    """
    sheet = getattr(take, "sheet", None)
    is_released = sheet is not None and sheet.is_released
    return may_mark(user, take) or (take.student_id == user.pk and not is_released)


def measure_now(user: User, take: Take) -> None:
    """Measure a take whose stored result cannot be read; one that can be is left alone. Raise NotAllowed."""

    def store(locked: Take, facts: Facts) -> None:
        sheet = MarkSheet.objects.select_for_update().filter(take=locked).first()
        if sheet is not None:
            locked.sheet = sheet
        if not may_measure(user, locked):
            raise NotAllowed
        if judged(locked).is_readable:
            return
        store_judgement(locked, facts)
        if sheet is not None:
            conclude_mark(sheet, locked)

    if not may_measure(user, take):
        raise NotAllowed
    if is_long(take):
        measure_soon([take])
    else:
        measured_and_stored(take, store)
