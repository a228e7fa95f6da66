"""Hand in, change marks, write remarks, release."""

import logging

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from oido.common.permissions import NotAllowed
from oido.marking.models import MarkSheet, Remark
from oido.marking.sheets import make_sheet
from oido.people.models import User
from oido.takes.models import Take
from oido.takes.services import measure_take

logger = logging.getLogger(__name__)


def may_mark(teacher: User, take: Take) -> bool:
    """Teachers mark what was handed in to classes of their own."""
    return (
        teacher.is_teacher
        and take.handed_in_at is not None
        and take.assignment.school_class.teachers.filter(pk=teacher.pk).exists()
    )


def _locked(take: Take) -> Take:
    # Alone: joined rows would be locked with it.
    return Take.objects.select_for_update().get(pk=take.pk)


def _check_may_mark(teacher: User, take: Take) -> None:
    if not may_mark(teacher, take):
        raise NotAllowed


class TooFewTakes(NotAllowed):
    """The exercise asks for more takes before one is handed in."""


@transaction.atomic
def hand_in(student: User, take: Take) -> Take:
    """Hand in a take, in place of one handed in before; not once a mark has been released."""
    if take.student_id != student.pk:
        raise NotAllowed
    own = list(
        Take.objects.select_for_update()
        .filter(assignment_id=take.assignment_id, student=student)
        .order_by("number")
    )
    if len(own) < take.assignment.exercise.recording_rules.least_takes:
        raise TooFewTakes
    if MarkSheet.objects.filter(take__in=own, released_at__isnull=False).exists():
        raise NotAllowed
    for other in own:
        if other.pk != take.pk and other.handed_in_at is not None:
            other.handed_in_at = None
            other.save(update_fields=["handed_in_at"])
    chosen = next(t for t in own if t.pk == take.pk)
    if chosen.handed_in_at is None:
        chosen.handed_in_at = timezone.now()
        chosen.save(update_fields=["handed_in_at"])
        measure_take(chosen, others=_handed_in_by_others(chosen))
    open_sheet(chosen)
    logger.info("take %s handed in", chosen.pk)
    return chosen


def _handed_in_by_others(take: Take) -> QuerySet[Take]:
    return (
        Take.objects.filter(assignment_id=take.assignment_id, handed_in_at__isnull=False)
        .exclude(student_id=take.student_id)
        .select_related("student")
    )


def open_sheet(take: Take) -> MarkSheet:
    """The take's mark sheet, made from its measurement if there is none yet."""
    sheet = make_sheet(take.measurement.result, {})
    found, _ = MarkSheet.objects.get_or_create(take=take, defaults={"total": sheet.total, "band": sheet.band})
    return found


@transaction.atomic
def change_score(teacher: User, take: Take, criterion: str, *, score: float | None, why: str) -> MarkSheet:
    """Put the teacher's score in place of the machine's; None gives the machine's back."""
    locked = _locked(take)
    _check_may_mark(teacher, locked)
    sheet = MarkSheet.objects.select_for_update().get(take=locked)
    changes = dict(sheet.changes)
    if score is None:
        changes.pop(criterion, None)
    else:
        changes[criterion] = {"score": score, "why": why, "by": teacher.pk}
    made = make_sheet(locked.measurement.result, changes)
    sheet.changes, sheet.total, sheet.band = changes, made.total, made.band
    sheet.save(update_fields=["changes", "total", "band"])
    logger.info("criterion %s of take %s changed by %s", criterion, take.pk, teacher.pk)
    return sheet


@transaction.atomic
def write_remark(teacher: User, take: Take, *, text: str, bar: int | None, beat: int | None) -> Remark:
    _check_may_mark(teacher, _locked(take))
    return Remark.objects.create(take=take, author=teacher, text=text, bar=bar, beat=beat)


@transaction.atomic
def remove_remark(teacher: User, remark: Remark) -> None:
    _check_may_mark(teacher, _locked(remark.take))
    if remark.author_id != teacher.pk:
        raise NotAllowed
    remark.delete()


@transaction.atomic
def release(teacher: User, take: Take) -> MarkSheet:
    """Let the student see mark and remarks. Once is enough: the first time stands."""
    locked = _locked(take)
    _check_may_mark(teacher, locked)
    sheet = MarkSheet.objects.select_for_update().get(take=locked)
    if sheet.released_at is None:
        sheet.released_at, sheet.released_by = timezone.now(), teacher
        sheet.save(update_fields=["released_at", "released_by"])
        logger.info("mark of take %s released by %s", take.pk, teacher.pk)
    return sheet
