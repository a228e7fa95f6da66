"""All takes of an assignment marked again by another rubric.

It is tried first, and shown who would move to which band; only what is kept then changes marks. Both are
done in the background, some takes at a time (`manage.py work`), so that it goes on where a worker
stopped, and a page can say how far it is.
"""

import logging
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from ear.assess import VERSION
from ear.marking.levels import level_named
from ear.marking.marks import mark_again
from oido.assignments.models import Assignment
from oido.common.permissions import NotAllowed
from oido.marking.models import Remarking
from oido.marking.sheets import sheet_from, store
from oido.people.models import User
from oido.rubrics.models import RubricVersion, read_version
from oido.rubrics.queries import visible_rubrics
from oido.takes.models import Take
from oido.takes.services import measure_take

CHUNK = 25
"""Takes that are marked in one transaction."""
ROW = ("take", "name", "before", "out_of_before", "band_before", "points", "out_of", "band", "is_released")
"""What is kept of a take that was tried; of one that was not yet, only the first."""
State = Remarking.State
OPEN = (State.TRYING, State.TRIED, State.KEEPING)
logger = logging.getLogger(__name__)


@transaction.atomic
def begin(
    teacher: User, assignment: Assignment, version: RubricVersion | None, *, with_released: bool
) -> Remarking:
    """Try a rubric on what was handed in; None for Oido's own. Another trial that is open is dropped."""
    locked = Assignment.objects.select_for_update().get(pk=assignment.pk)
    _check(teacher, locked)
    if version is not None:
        is_known = visible_rubrics(teacher).filter(pk=version.rubric_id, kind=locked.exercise.kind).exists()
        if not is_known:
            raise NotAllowed
    if locked.remarkings.filter(state=State.KEEPING).exists():
        raise NotAllowed
    locked.remarkings.filter(state__in=(State.TRYING, State.TRIED)).update(state=State.DROPPED)
    keys = _takes(locked, with_released=with_released).values_list("pk", flat=True)
    made = Remarking.objects.create(
        assignment=locked,
        rubric=version,
        begun_by=teacher,
        with_released=with_released,
        rows=[[str(key)] for key in keys],
        takes=len(keys),
    )
    if not keys:
        # There is nothing to look at: what comes in is marked by it.
        _settle(made)
    return made


@transaction.atomic
def keep(teacher: User, job: Remarking) -> None:
    """Let what was tried be the marks. What is handed in from now on is marked by the same rubric."""
    locked = Remarking.objects.select_for_update().get(pk=job.pk)
    _check(teacher, locked.assignment)
    if locked.state != State.TRIED:
        raise NotAllowed
    locked.state, locked.done = State.KEEPING, 0
    locked.save(update_fields=["state", "done", "worked_at"])
    Assignment.objects.filter(pk=locked.assignment_id).update(rubric=locked.rubric)


@transaction.atomic
def drop(teacher: User, job: Remarking) -> None:
    locked = Remarking.objects.select_for_update().get(pk=job.pk)
    _check(teacher, locked.assignment)
    if locked.state in (State.TRYING, State.TRIED):
        locked.state = State.DROPPED
        locked.save(update_fields=["state", "worked_at"])


@transaction.atomic
def work_once() -> bool:
    """Do the next few takes of the oldest job; False where there is none. Others leave a job alone that
    somebody works on."""
    job = (
        Remarking.objects.select_for_update(skip_locked=True)
        .filter(state__in=(State.TRYING, State.KEEPING))
        .order_by("pk")
        .first()
    )
    if job is None:
        return False
    try:
        with transaction.atomic():
            _next_takes(job)
    except Exception:
        # Whatever it was, the job must not be tried for ever, nor leave half of its takes unsaid.
        logger.exception("marking again failed: %s", job.pk)
        job.refresh_from_db(fields=["rows", "done"])
        job.state = State.FAILED
    job.save(update_fields=["rows", "done", "state", "worked_at"])
    return True


def _next_takes(job: Remarking) -> None:
    keys = [row[0] for row in job.rows[job.done : job.done + CHUNK]]
    takes = {str(take.pk): take for take in _takes(job.assignment, with_released=True).filter(pk__in=keys)}
    rows = list(job.rows)
    for number, key in enumerate(keys, start=job.done):
        take = takes.get(key)
        if take is not None and (job.with_released or not take.sheet.is_released):
            rows[number] = _mark(job, take)
    job.rows, job.done = rows, job.done + len(keys)
    if job.done >= len(job.rows):
        if job.state == State.TRYING:
            job.state = State.TRIED
        else:
            _settle(job)


def _mark(job: Remarking, take: Take) -> list:
    """One take by the job's rubric; what becomes of its mark."""
    kind, sheet = take.assignment.exercise.kind, take.sheet
    before = (sheet.points, sheet.out_of, sheet.band)
    rubric = take.set_for_it.over(read_version(job.rubric, kind))
    if take.measurement.version == VERSION:
        level = level_named(take.assignment.exercise.level)
        result = mark_again(take.measurement.result, level=level, rubric=rubric)
    else:
        # An older code measured it: by now it may hear more.
        sheet.rubric = job.rubric
        result = measure_take(take).result
    store(sheet, sheet_from(result, rubric, sheet))
    if job.state == State.KEEPING:
        take.measurement.result = result
        take.measurement.version = VERSION
        take.measurement.save()
        sheet.rubric = job.rubric
        sheet.save()
    return [
        str(take.pk),
        take.student.name,
        *before,
        sheet.points,
        sheet.out_of,
        sheet.band,
        sheet.is_released,
    ]


def rows_of(job: Remarking) -> list[dict[str, Any]]:
    """The takes that were tried, by the names in `ROW`."""
    return [dict(zip(ROW, row, strict=True)) for row in job.rows if len(row) == len(ROW)]


def _settle(job: Remarking) -> None:
    Assignment.objects.filter(pk=job.assignment_id).update(rubric=job.rubric)
    job.state = State.KEPT
    job.save()
    logger.info("takes of assignment %s marked again: %s", job.assignment_id, job.takes)


def _takes(assignment: Assignment, *, with_released: bool) -> QuerySet[Take]:
    takes = (
        Take.objects.filter(assignment=assignment, handed_in_at__isnull=False)
        .select_related(
            "sheet", "measurement", "student", "assignment__exercise", "assignment__rubric", "part"
        )
        .defer("part__source_file")
        .order_by("student__last_name", "student__first_name", "pk")
    )
    return takes if with_released else takes.filter(sheet__released_at__isnull=True)


def _check(teacher: User, assignment: Assignment) -> None:
    if not teacher.is_teacher or not assignment.school_class.teachers.filter(pk=teacher.pk).exists():
        raise NotAllowed
