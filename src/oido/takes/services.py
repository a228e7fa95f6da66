"""Receive takes, keep them whole, measure them."""

import logging
import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from ear.assess import VERSION, assess
from ear.findings.standing import Standing
from ear.formats.events import RawEvent
from ear.marking.levels import level_named
from ear.report_json import assessment_to_json, standing_from_json
from oido.assignments.models import Assignment
from oido.common.permissions import NotAllowed
from oido.people.models import User
from oido.takes.models import Measurement, Take

logger = logging.getLogger(__name__)


class NoMoreTakes(NotAllowed):
    """All takes that the exercise allows are recorded."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTake:
    """A take as the Stand sends it, checked. `part_id` says which target part was on the page."""

    id: uuid.UUID
    part_id: int
    events: list[RawEvent]
    source: str
    device: str
    latency_ms: float
    recorded_at: datetime


@transaction.atomic
def receive_take(student: User, assignment: Assignment, new: NewTake) -> Take:
    """Store a take and measure it. Sent again, it is the same take and nothing changes."""
    if student.is_teacher or not assignment.school_class.students.filter(pk=student.pk).exists():
        raise NotAllowed
    # Takes of one assignment are numbered one after the other.
    locked = Assignment.objects.select_for_update().get(pk=assignment.pk)
    known = Take.objects.filter(pk=new.id).first()
    if known is not None:
        if known.student_id != student.pk or known.assignment_id != assignment.pk:
            raise NotAllowed
        return known
    part = locked.exercise.parts.filter(pk=new.part_id).first()
    if part is None:
        raise NotAllowed
    rules = locked.exercise.recording_rules
    own = Take.objects.filter(assignment=locked, student=student)
    if rules.attempts is not None and own.count() >= rules.attempts:
        raise NoMoreTakes
    last = own.order_by("-number").first()
    take = Take.objects.create(
        id=new.id,
        assignment=locked,
        student=student,
        part=part,
        number=last.number + 1 if last else 1,
        events=[list(event) for event in new.events],
        source=new.source,
        device=new.device,
        latency_ms=new.latency_ms,
        tempo_bpm=locked.exercise.tempo_bpm,
        recorded_at=new.recorded_at,
    )
    measure_take(take)
    logger.info("take %s received from %s", take.pk, student.pk)
    return take


def measure_take(take: Take, *, others: Iterable[Take] = ()) -> Measurement:
    """Measure a stored take with the code as it is now, and keep the result.

    Progress is told against the student's take before; `others` are takes of other students, among
    which the same recording is looked for.
    """
    assessment = assess(
        take.part.read(),
        take.read(),
        level=level_named(take.assignment.exercise.level),
        before=_standing_before(take),
        others=[(str(other.student), other.read()) for other in others],
    )
    measurement, _ = Measurement.objects.update_or_create(
        take=take,
        defaults={"version": VERSION, "result": assessment_to_json(assessment)},
    )
    return measurement


def _standing_before(take: Take) -> Standing | None:
    earlier = (
        Measurement.objects.filter(
            take__assignment_id=take.assignment_id,
            take__student_id=take.student_id,
            take__part_id=take.part_id,
            take__number__lt=take.number,
        )
        .order_by("-take__number")
        .first()
    )
    return standing_from_json(earlier.result) if earlier else None
