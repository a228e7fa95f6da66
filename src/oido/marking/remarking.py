"""All takes of an assignment marked again by another rubric.

It is tried first, and shown who would move to which band; only what is kept then changes marks. Both are
done in the background, some takes at a time (`oido.marking.background`), so that it goes on where a worker
stopped, and a page can say how far it is.
"""

import logging
from collections.abc import Iterable
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from ear.errors import FormatError
from ear.judging.differences import total_changes
from ear.judging.judge import conclude, score
from oido.assignments.models import Assignment
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.jobs.services import ask_for
from oido.marking.history import Kind, recording_change
from oido.marking.models import MarkSheet, Remarking, Trial
from oido.marking.sheets import changes_if_concluded, conclude_mark
from oido.people.models import User
from oido.people.queries import teaches
from oido.rubrics.models import RubricVersion, read_version
from oido.rubrics.queries import visible_rubrics
from oido.takes.judging import add_judgement, judged, row_of, rules_for
from oido.takes.models import Judgement, Take

CHUNK = 25
"""Takes that are marked in one transaction."""
ROW = (
    "take", "name", "before", "out_of_before", "band_before", "points", "out_of", "band", "is_released", "changes",
    "total_before", "total",
)  # fmt: skip
"""What is kept of a take that was tried; of one that was not yet, only the first. `changes` are pairs of what the total
changed by and for what: a criterion's name, or a `Deduction`."""
State = Remarking.State
OPEN = (State.TRYING, State.TRIED, State.KEEPING)
logger = logging.getLogger(__name__)


@transaction.atomic
def begin(
    teacher: User, assignment: Assignment, version: RubricVersion | None, *, with_released: bool
) -> Remarking:
    """Begin a trial of a rubric on what was handed in; None means Oido's own. Another open trial is dropped."""
    locked = Assignment.objects.select_for_update().get(pk=assignment.pk)
    _check(teacher, locked)
    if version is not None:
        is_known = visible_rubrics(teacher).filter(pk=version.rubric_id, kind=locked.exercise.kind).exists()
        if not is_known:
            raise NotAllowed
    if locked.remarkings.filter(state=State.KEEPING).exists():
        raise NotAllowed
    for other in locked.remarkings.select_for_update().filter(state__in=(State.TRYING, State.TRIED)):
        _discard(other)
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
    else:
        _ask(made)
    return made


def _ask(job: Remarking) -> None:
    key = f"{job.pk}:{job.state}"
    ask_for("marking.mark_again", school=job.assignment.school, key=key, remarking=job.pk)


@transaction.atomic
def save_remarking(teacher: User, job: Remarking) -> None:
    """Let what was tried be the marks. What is handed in from now on is marked by the same rubric."""
    locked = Remarking.objects.select_for_update().get(pk=job.pk)
    _check(teacher, locked.assignment)
    if locked.state != State.TRIED:
        raise NotAllowed
    title = locked.assignment.exercise.title
    remember("rubric_kept", actor=teacher, school_class=locked.assignment.school_class, title=title)
    locked.state, locked.done = State.KEEPING, 0
    locked.save(update_fields=["state", "done", "worked_at"])
    Assignment.objects.filter(pk=locked.assignment_id).update(rubric=locked.rubric)
    _ask(locked)


@transaction.atomic
def discard(teacher: User, job: Remarking) -> None:
    locked = Remarking.objects.select_for_update().get(pk=job.pk)
    _check(teacher, locked.assignment)
    if locked.state in (State.TRYING, State.TRIED):
        _discard(locked)


def _discard(locked: Remarking) -> None:
    """Its judgements are gone, and nothing else was touched."""
    Judgement.objects.filter(pk__in=list(locked.trials.values_list("judgement_id", flat=True))).delete()
    locked.state = State.DROPPED
    locked.save(update_fields=["state", "worked_at"])


@transaction.atomic
def step(pk: int) -> bool:
    """Mark the next few takes of a job. Return False if nothing is left or another worker is at it."""
    job = (
        Remarking.objects.select_for_update(skip_locked=True)
        .filter(pk=pk, state__in=(State.TRYING, State.KEEPING))
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
    if job.state == State.TRYING:
        takes = _takes(job.assignment, with_released=True).filter(pk__in=keys)
        rows = _try(job, takes.defer("part__data", "part__source_file", "events", "judgement__scores"))
        job.rows = [rows.get(row[0], row) for row in job.rows]
    else:
        trials = job.trials.filter(take__in=keys).select_related(
            "judgement__measurement", "judgement__rubric"
        )
        tried = {str(trial.take_id): trial.judgement for trial in trials}
        for key in keys:
            _save_trial(job, key, tried.get(key))
    job.done += len(keys)
    if job.done >= len(job.rows):
        if job.state == State.TRYING:
            job.state = State.TRIED
        else:
            _settle(job)


def _try(job: Remarking, takes: Iterable[Take]) -> dict[str, list[Any]]:
    """Add judgements of takes by the job's rubric; for each take what would become of its mark. A take that
    cannot be read, or whose mark students have seen, is left out."""
    rows: dict[str, list[Any]] = {}
    judgements: list[tuple[Take, Judgement]] = []
    for take in takes:
        if take.sheet.is_released and not job.with_released:
            continue
        try:
            facts = judged(take).facts
        except FormatError:
            continue
        assert take.judgement is not None
        rules, sheet = rules_for(take, job.rubric, facts=facts), take.sheet
        scores = score(facts, rules)
        judgements.append((take, row_of(take.judgement.measurement, job.rubric, scores)))
        changes = changes_if_concluded(take)
        mark = conclude(facts, scores, rules.rubric, changes)
        counting = judged(take).judgement
        rows[str(take.pk)] = [
            str(take.pk), take.student.name, sheet.points, sheet.out_of, sheet.band,
            mark.points, mark.out_of, mark.band.name, sheet.is_released, total_changes(counting, mark),
            counting.total, mark.total,
        ]  # fmt: skip
    Judgement.objects.bulk_create(row for _, row in judgements)
    Trial.objects.bulk_create(Trial(remarking=job, take=take, judgement=row) for take, row in judgements)
    return rows


def _save_trial(job: Remarking, key: str, tried: Judgement | None) -> None:
    """Let the tried judgement count, with what the teacher says of the take by now.

    The take is locked first, as all do who write a mark; its sheet is read after that.
    """
    locked = Take.objects.select_for_update().defer("events").filter(pk=key).first()
    sheet = MarkSheet.objects.select_for_update().filter(take_id=key).first()
    if locked is None or sheet is None or locked.handed_in_at is None:
        return
    if sheet.is_released and not job.with_released:
        return
    locked.sheet, locked.assignment = sheet, job.assignment
    current = locked.judgement
    if tried is not None and current is not None and tried.measurement_id == current.measurement_id:
        locked.judgement = tried
    elif current is not None and judged(locked).is_readable:
        # Measured anew since it was tried.
        measurement = current.measurement
        locked.judgement = add_judgement(locked, measurement, judged(locked).facts, job.rubric)
    else:
        return
    locked.proposed = None
    locked.save(update_fields=["judgement", "proposed"])
    with recording_change(sheet, job.begun_by, Kind.RUBRIC):
        conclude_mark(sheet, locked)
        if not sheet.is_whole and not sheet.is_released:
            # The rubric asks for something that is not marked yet: the take waits again.
            sheet.accepted_at = None
            sheet.save(update_fields=["accepted_at"])


def waiting_again(job: Remarking) -> list[str]:
    """Return the criteria that a rubric wants marked by hand and that have no mark yet in accepted takes; empty
    if there are none.
    """
    asked = read_version(job.rubric, job.assignment.exercise.kind).teacher_criteria
    sheets = MarkSheet.objects.filter(
        take__assignment=job.assignment, take__handed_in_at__isnull=False, released_at=None
    )
    if job.state == State.TRIED:
        sheets = sheets.filter(accepted_at__isnull=False)
    stored_changes = list(sheets.values_list("changes", flat=True))
    return [one.label for one in asked if any(one.key not in changes for changes in stored_changes)]


def rows_of(job: Remarking) -> list[dict[str, object]]:
    """Return the takes of the trial as rows, by the names in `ROW`."""
    # Rows that an earlier version tried have no changes.
    return [
        {"changes": [], "total_before": None, "total": None, **dict(zip(ROW, row, strict=False))}
        for row in job.rows
        if len(row) > 1
    ]


def _settle(job: Remarking) -> None:
    Assignment.objects.filter(pk=job.assignment_id).update(rubric=job.rubric)
    job.state = State.KEPT
    job.save()
    job.trials.all().delete()
    logger.info("takes of assignment %s marked again: %s", job.assignment_id, job.takes)


def _takes(assignment: Assignment, *, with_released: bool) -> QuerySet[Take]:
    takes = (
        # Of a former student only the mark is left.
        Take.objects.filter(assignment=assignment, handed_in_at__isnull=False, student__erased_as="")
        .select_related(
            "sheet",
            "judgement__measurement",
            "judgement__rubric",
            "student",
            "assignment__exercise",
            "assignment__rubric",
            "part__exercise",
        )
        .defer("part__source_file", "part__data", "events")
        .order_by("student__last_name", "student__first_name", "pk")
    )
    return takes if with_released else takes.filter(sheet__released_at__isnull=True)


def _check(teacher: User, assignment: Assignment) -> None:
    if not teaches(teacher, assignment.school_class):
        raise NotAllowed
