"""Stored takes measured again after a new version of the measuring.

Done in the background, a take at a time (`manage.py work`), so that it goes on where a worker stopped, and a
page can say how far it is. Marks that students have seen stay: what the new version makes of them is
proposed, and a teacher agrees, or does not.
"""

import logging

from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.utils import timezone

from ear.facts.taking import VERSION
from oido.common.permissions import NotAllowed
from oido.marking.models import MarkSheet, Remeasuring
from oido.marking.services import locked_to_mark, may_mark
from oido.marking.sheets import store
from oido.people.models import User
from oido.takes.judging import add_judgement, judged, measured, store_measurement
from oido.takes.models import Take
from oido.takes.services import measure_take

logger = logging.getLogger(__name__)


def to_measure() -> QuerySet[Take]:
    """Takes that this version has not measured."""
    return Take.objects.exclude(measurements__version=VERSION)


def begin_if_due() -> Remeasuring | None:
    """The job of this version, if there is something to do; made once, however many workers ask."""
    known = Remeasuring.objects.filter(version=VERSION).first()
    if known is not None:
        return known if known.ended_at is None else None
    count = to_measure().count()
    if not count:
        return None
    try:
        with transaction.atomic():
            return Remeasuring.objects.create(version=VERSION, takes=count)
    except IntegrityError:
        return Remeasuring.objects.get(version=VERSION)


def going_on() -> Remeasuring | None:
    """To be shown while it lasts."""
    return Remeasuring.objects.filter(version=VERSION, ended_at__isnull=True).first()


@transaction.atomic
def work_once() -> bool:
    """Measure the next take of an open job; False where there is none, or somebody is at it."""
    job = (
        Remeasuring.objects.select_for_update(skip_locked=True)
        .filter(version=VERSION, ended_at__isnull=True)
        .first()
    )
    if job is None:
        return False
    key = (
        to_measure()
        .exclude(pk__in=job.failed)
        .order_by("recorded_at", "pk")
        .values_list("pk", flat=True)
        .first()
    )
    if key is None:
        job.ended_at = timezone.now()
        logger.info("takes measured again by version %s: %s", VERSION, job.done)
    else:
        try:
            with transaction.atomic():
                _measure(key)
        except Exception:
            # Whatever it was, it must not hold up the others; its page says that it cannot be read.
            logger.exception("take %s could not be measured again", key)
            job.failed = [*job.failed, str(key)]
        job.done += 1
        job.takes = max(job.takes, job.done)
    job.save()
    return True


def _measure(key: object) -> None:
    # The row alone: joined rows would be locked with it.
    take = Take.objects.select_for_update().get(pk=key)
    facts = measured(take)
    current = take.judgement
    made = add_judgement(
        take, store_measurement(take, facts), facts, current.rubric if current else take.assignment.rubric
    )  # fmt: skip
    sheet = MarkSheet.objects.select_for_update().filter(take=take).first()
    if sheet is not None and sheet.is_released and current is not None:
        take.proposed = made
        take.save(update_fields=["proposed"])
        return
    take.judgement = made
    take.save(update_fields=["judgement"])
    if sheet is not None:
        take.sheet = sheet
        store(sheet, judged(take).judgement)


@transaction.atomic
def agree(teacher: User, take: Take) -> None:
    """Let the new version's judgement count, with the teacher's changes over it."""
    locked = locked_to_mark(teacher, take)
    if locked.proposed is None:
        return
    locked.judgement, locked.proposed = locked.proposed, None
    locked.save(update_fields=["judgement", "proposed"])
    locked.sheet = MarkSheet.objects.select_for_update().get(take=locked)
    store(locked.sheet, judged(locked).judgement)
    logger.info("take %s: mark by version %s agreed to by %s", take.pk, VERSION, teacher.pk)


@transaction.atomic
def decline(teacher: User, take: Take) -> None:
    """Leave the mark as students have seen it."""
    locked = locked_to_mark(teacher, take)
    locked.proposed = None
    locked.save(update_fields=["proposed"])


def may_measure(user: User, take: Take) -> bool:
    """Of a take that cannot be read. A mark that students have seen is its teachers' to replace."""
    sheet = getattr(take, "sheet", None)
    is_released = sheet is not None and sheet.is_released
    return may_mark(user, take) or (take.student_id == user.pk and not is_released)


@transaction.atomic
def measure_now(user: User, take: Take) -> None:
    """Measure a take whose stored result cannot be read; one that can be is left alone. Raises NotAllowed."""
    locked = Take.objects.select_for_update().get(pk=take.pk)
    sheet = MarkSheet.objects.select_for_update().filter(take=locked).first()
    if sheet is not None:
        locked.sheet = sheet
    if not may_measure(user, locked):
        raise NotAllowed
    if judged(locked).is_readable:
        return
    measure_take(locked)
    if sheet is not None:
        store(sheet, judged(locked).judgement)
