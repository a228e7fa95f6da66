"""Hand in, change marks, write remarks, release."""

import logging
from collections.abc import Sequence

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from oido.common.permissions import NotAllowed
from oido.marking.models import MarkSheet, Remark
from oido.marking.sheets import make_sheet
from oido.people.models import User
from oido.takes.models import HandIn, Take
from oido.takes.services import measure_take
from oido.takes.tray import hindrance

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


class WrongNumber(NotAllowed):
    """The exercise asks for another number of takes to be handed in together."""


class NotToBeHandedIn(NotAllowed):
    """A take is thrown away, or at a tempo or in a key that the exercise does not ask for."""


class TooLate(NotAllowed):
    """What was handed in can be changed until the due date."""


@transaction.atomic
def hand_in(student: User, *takes: Take, note: str = "", answers: Sequence[tuple[str, str]] = ()) -> HandIn:
    """Hand in takes of one assignment, in place of those handed in before; once a mark has been
    released, no more. The same takes again change only what is said with them."""
    first = takes[0]
    if any(t.student_id != student.pk or t.assignment_id != first.assignment_id for t in takes):
        raise NotAllowed
    assignment = first.assignment
    rules = assignment.exercise.recording_rules
    own = list(
        Take.objects.select_for_update().filter(assignment=assignment, student=student).order_by("number")
    )
    wanted = {take.pk for take in takes}
    if len(own) < rules.least_takes:
        raise TooFewTakes
    if len(wanted) != rules.handed_in_takes:
        raise WrongNumber
    if MarkSheet.objects.filter(take__in=own, released_at__isnull=False).exists():
        raise NotAllowed
    now = timezone.now()
    if any(take.is_handed_in for take in own) and now > assignment.due_at:
        raise TooLate
    chosen = [take for take in own if take.pk in wanted]
    bpm = float(assignment.exercise.tempo_bpm)
    if any(hindrance(take, rules, part=take.part.read(), bpm=bpm) for take in chosen):
        raise NotToBeHandedIn
    for other in own:
        if other.pk not in wanted and other.handed_in_at is not None:
            other.handed_in_at = None
            other.save(update_fields=["handed_in_at"])
    for take in chosen:
        if take.handed_in_at is None:
            take.handed_in_at = now
            take.save(update_fields=["handed_in_at"])
            measure_take(take, others=_handed_in_by_others(take))
        open_sheet(take)
    said = {"note": note, "answers": [list(pair) for pair in answers], "changed_at": now}
    made, _ = HandIn.objects.update_or_create(
        assignment=assignment, student=student, defaults=said, create_defaults={**said, "first_at": now}
    )
    logger.info("takes %s handed in", ", ".join(str(pk) for pk in wanted))
    return made


def _handed_in_by_others(take: Take) -> QuerySet[Take]:
    return (
        Take.objects.filter(assignment_id=take.assignment_id, handed_in_at__isnull=False)
        .exclude(student_id=take.student_id)
        .select_related("student")
        .prefetch_related("passes")
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
