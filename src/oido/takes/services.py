"""Receive takes and passes, keep them whole, measure them."""

import logging
import uuid
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from ear.formats.events import RawEvent
from oido.assignments.models import Assignment
from oido.common.permissions import NotAllowed
from oido.people.models import User
from oido.takes.judging import add_judgement, measured, store_measurement
from oido.takes.models import Judgement, Take, TakeFile, TakePass

logger = logging.getLogger(__name__)


class NoMoreTakes(NotAllowed):
    """All takes that the exercise allows are recorded."""


class NoMorePasses(NotAllowed):
    """All passes that the exercise allows in a take are laid down."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewRecorded:
    """What came from an instrument, checked; `id` was made where it was recorded."""

    id: uuid.UUID
    events: list[RawEvent]
    source: str
    device: str
    latency_ms: float
    recorded_at: datetime
    pads: dict[int, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTake(NewRecorded):
    """A take as the Stand sends it. `part_id` says which target part was on the page."""

    part_id: int
    tempo_bpm: Decimal | None = None
    """The click's; None for the exercise's own."""
    fifths: int | None = None
    heard_click: bool = True
    file: tuple[str, bytes] | None = None
    """Of one that was recorded elsewhere: its name and what it held."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewPass(NewRecorded):
    way: str
    from_ms: float
    until_ms: float
    pitches: list[int]


@transaction.atomic
def receive_take(student: User, assignment: Assignment, new: NewTake) -> Take:
    """Store a take and measure it. Sent again, it is the same take and nothing changes.

    Any tempo and key is kept: whether a take may be handed in is asked when it is.
    """
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
        **_recorded(new),
        assignment=locked,
        student=student,
        part=part,
        number=last.number + 1 if last else 1,
        tempo_bpm=new.tempo_bpm or locked.exercise.tempo_bpm,
        fifths=new.fifths,
        asks_click=rules.has_click,
        heard_click=new.heard_click,
    )
    if new.file is not None:
        TakeFile.objects.create(take=take, name=new.file[0][:200], data=new.file[1])
    measure_take(take)
    logger.info("take %s received from %s", take.pk, student.pk)
    return take


@transaction.atomic
def receive_pass(student: User, take: Take, new: NewPass) -> TakePass:
    """Lay a pass into a take and measure the take again. Sent again, nothing changes."""
    locked = _open_to_passes(student, take)
    known = TakePass.objects.filter(pk=new.id).first()
    if known is not None:
        if known.take_id != locked.pk:
            raise NotAllowed
        return known
    if Take.objects.filter(pk=new.id).exists():
        raise NotAllowed
    allowed = locked.assignment.exercise.recording_rules.passes
    if 1 + len(locked.kept_passes) >= allowed:
        raise NoMorePasses
    last = locked.passes.order_by("-number").first()
    made = TakePass.objects.create(
        **_recorded(new),
        take=locked,
        number=last.number + 1 if last else 2,
        way=new.way,
        from_ms=new.from_ms,
        until_ms=new.until_ms,
        pitches=new.pitches,
    )
    measure_take(locked)
    logger.info("pass %s received for take %s", made.pk, locked.pk)
    return made


@transaction.atomic
def take_back_pass(student: User, laid: TakePass, *, is_back: bool) -> Take:
    """Take a pass back, or lay it down again; it stays stored either way."""
    take = _open_to_passes(student, laid.take)
    allowed = take.assignment.exercise.recording_rules.passes
    if not is_back and 1 + len(take.kept_passes) >= allowed and laid.undone_at is not None:
        raise NoMorePasses
    TakePass.objects.filter(pk=laid.pk).update(undone_at=timezone.now() if is_back else None)
    measure_take(take)
    return take


def _open_to_passes(student: User, take: Take) -> Take:
    locked = Take.objects.select_for_update().get(pk=take.pk)
    is_shut = locked.is_handed_in or locked.thrown_away_at is not None or hasattr(locked, "corrected")
    if locked.student_id != student.pk or is_shut:
        raise NotAllowed
    return locked


def _recorded(new: NewRecorded) -> dict:
    """Its fields in the database."""
    return {
        **{name: getattr(new, name) for name in ("id", "source", "device", "latency_ms", "recorded_at")},
        "events": [list(event) for event in new.events],
        "pads": {str(number): meant for number, meant in new.pads.items()},
    }


def measure_take(take: Take, *, others: Iterable[Take] = ()) -> Judgement:
    """Measure a stored take with the code as it is now, judge it, and let that count.

    It is judged by the rubric that it was judged by, once it is handed in; before that by its assignment's.
    """
    is_marked = take.is_handed_in and take.judgement is not None and hasattr(take, "sheet")
    version = take.judgement.rubric if is_marked and take.judgement else take.assignment.rubric
    facts = measured(take, others=others)
    made = add_judgement(take, store_measurement(take, facts), facts, version)
    take.judgement, take.proposed = made, None
    take.save(update_fields=["judgement", "proposed"])
    return made
