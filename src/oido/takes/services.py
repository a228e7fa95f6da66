"""Receive takes and passes, keep them whole, measure them."""

import logging
import uuid
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import TypeVar

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from ear.facts.facts import Facts
from ear.formats.characters import without_control_characters
from ear.formats.events import RawEvent
from ear.judging.settings import TakeSettings
from ear.measuring.fairness import Imprint
from ear.notes import Kind
from ear.notes.ending import Ending
from ear.recording.passes import PassMode
from oido.assignments.models import Assignment
from oido.assignments.student_terms import get_student_terms
from oido.common.permissions import NotAllowed
from oido.jobs.services import ask_for
from oido.people.models import User
from oido.people.queries import attends
from oido.people.quotas import require_room_for_take
from oido.takes.judging import add_judgement, measured, point_at, store_measurement
from oido.takes.kits import kit_of
from oido.takes.models import SOON, Judgement, Take, TakeFile, TakePass
from oido.takes.sizes import is_long

TRIES = 5
MEASURE_WAITING = "marking.measure_waiting"
MEASURE_AT_ONCE = datetime(2000, 1, 1, tzinfo=UTC)
"""As a time after which a take is measured: nobody else is at it."""
MEASURED_WITH = ("part__exercise", "student", "assignment__rubric")
logger = logging.getLogger(__name__)


class NoMoreTakes(NotAllowed):
    """All takes that the exercise allows are recorded."""


class TakeIsGone(Exception):
    """It was deleted while it was measured."""


class NoMorePasses(NotAllowed):
    """All passes that the exercise allows in a take are laid down."""


FINE_MS = 0.5
"""A note is where it is."""


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
    ending: Ending = Ending.STOPPED
    file: tuple[str, bytes] | None = None
    """Of one that was recorded elsewhere: its name and what it held."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewPass(NewRecorded):
    way: str
    from_ms: float
    until_ms: float
    pitches: list[int]


def store_take(student: User, assignment: Assignment, new: NewTake) -> Take:
    """Store a take, to be measured beside by a worker: who sent it need not wait. Sent again, it is the same take."""
    with transaction.atomic():
        take, is_new = _stored(student, assignment, new)
        _measure_beside(take)
    if is_new:
        logger.info("take %s received from %s", take.pk, student.pk)
    return take


def receive_take(student: User, assignment: Assignment, new: NewTake) -> Take:
    """Store a take and measure it at once. Sent again, it is the same take and nothing changes.

    Any tempo and key is kept: whether a take may be handed in is asked when it is. Nothing that a class-mate
    needs is locked, and nothing at all while it is measured.
    """
    take, is_new = _stored(student, assignment, new)
    _measure_or_queue(take)
    if is_new:
        logger.info("take %s received from %s", take.pk, student.pk)
    return take


@transaction.atomic
def _stored(student: User, assignment: Assignment, new: NewTake) -> tuple[Take, bool]:
    """The take, and whether it was not here before."""
    if not attends(student, assignment.school_class):
        raise NotAllowed
    student_terms = get_student_terms(assignment, student)
    # A student's takes are numbered one after the other: two of one student wait for each other here.
    User.objects.select_for_update().only("pk").get(pk=student.pk)
    known = Take.objects.filter(pk=new.id).defer("events").first()
    if known is not None:
        if known.student_id != student.pk or known.assignment_id != assignment.pk:
            raise NotAllowed
        return known, False
    exercise = student_terms.exercise
    part = exercise.parts.filter(pk=new.part_id).defer("data", "source_file").first()
    if part is None or not student_terms.is_given:
        raise NotAllowed
    rules = student_terms.rules
    own = Take.objects.filter(assignment=assignment, student=student)
    if rules.attempts is not None and own.count() >= rules.attempts:
        raise NoMoreTakes
    require_room_for_take(student.current_school)
    last_number = own.order_by("-number").values_list("number", flat=True).first() or 0
    take = Take(
        **_recorded(new),
        school_id=assignment.school_id,
        assignment=assignment,
        student=student,
        part=part,
        number=last_number + 1,
        tempo_bpm=new.tempo_bpm or exercise.tempo_bpm,
        fifths=new.fifths,
        asks_click=rules.has_click,
        kit_pads=kit_of(student, new.device) if Kind(exercise.kind).instrument.has_lanes else {},
        heard_click=new.heard_click,
        ending=new.ending.value,
    )
    if take.tempo_bpm != exercise.tempo_bpm or new.fifths is not None:
        # What cannot be played in that key or at that tempo is refused before anything is stored.
        take.page()
    take.save(force_insert=True)
    if new.file is not None:
        TakeFile.objects.create(
            take=take, name=without_control_characters(new.file[0])[:200], data=new.file[1]
        )
    return take, True


def store_pass(student: User, take: Take, new: NewPass) -> TakePass:
    """Lay a pass into a take, which is measured again beside by a worker. Sent again, nothing changes."""
    with transaction.atomic():
        made, is_new = _laid(student, take, new)
        _measure_beside(made.take)
    if is_new:
        logger.info("pass %s received for take %s", made.pk, made.take_id)
    return made


def receive_pass(student: User, take: Take, new: NewPass) -> TakePass:
    """Lay a pass into a take and measure the take again at once. Sent again, nothing changes."""
    made, is_new = _laid(student, take, new)
    _measure_or_queue(made.take)
    if is_new:
        logger.info("pass %s received for take %s", made.pk, made.take_id)
    return made


@transaction.atomic
def _laid(student: User, take: Take, new: NewPass) -> tuple[TakePass, bool]:
    """The pass, and whether it was not here before."""
    locked = _open_to_passes(student, take)
    known = TakePass.objects.filter(pk=new.id).first()
    if known is not None:
        if known.take_id != locked.pk:
            raise NotAllowed
        return known, False
    if Take.objects.filter(pk=new.id).exists():
        raise NotAllowed
    if new.events and _passes_played(locked) >= locked.exercise.recording_rules.passes:
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
    _await_measuring(locked)
    return made, True


def undo_pass(student: User, laid: TakePass, *, is_back: bool) -> Take:
    """Take a pass back, or restore this pass; it stays stored either way."""
    take = _turned(student, laid, is_back=is_back)
    _measure_or_queue(take)
    return take


@transaction.atomic
def _turned(student: User, laid: TakePass, *, is_back: bool) -> Take:
    take = _open_to_passes(student, laid.take)
    allowed = take.exercise.recording_rules.passes
    if not is_back and laid.events and _passes_played(take) >= allowed and laid.undone_at is not None:
        raise NoMorePasses
    TakePass.objects.filter(pk=laid.pk).update(undone_at=timezone.now() if is_back else None)
    _await_measuring(take)
    return take


def delete_note(student: User, take: Take, number: int) -> TakePass:
    """Take one note that was played out of a take, by its number in what is read: a pass that brings nothing, and that
    can be taken back like any other. Raise NoSuchNote, NotAllowed."""
    notes = take.read().notes
    if not 0 <= number < len(notes):
        raise NoSuchNote
    note = notes[number]
    new = NewPass(
        id=uuid.uuid4(), events=[], source=take.source, device=take.device, latency_ms=0.0, recorded_at=timezone.now(),
        way=PassMode.REPLACE.value, from_ms=1000.0 * note.onset_s - FINE_MS, until_ms=1000.0 * note.onset_s + FINE_MS,
        pitches=[note.pitch],
    )  # fmt: skip
    return receive_pass(student, take, new)


class NoSuchNote(NotAllowed):
    """No note of that number was played in the take."""


def _passes_played(take: Take) -> int:
    """With the first one; those that only take something out bring nothing and are not counted."""
    return 1 + sum(bool(one.events) for one in take.kept_passes)


def _open_to_passes(student: User, take: Take) -> Take:
    locked = Take.objects.select_for_update().get(pk=take.pk)
    is_shut = locked.is_handed_in or locked.deleted_at is not None or hasattr(locked, "corrected")
    if locked.student_id != student.pk or is_shut:
        raise NotAllowed
    return locked


def _await_measuring(locked: Take) -> None:
    locked.measure_after = timezone.now()
    locked.save(update_fields=["measure_after"])


def _recorded(new: NewRecorded) -> dict[str, object]:
    """Its fields in the database."""
    return {
        **{name: getattr(new, name) for name in ("id", "source", "device", "latency_ms", "recorded_at")},
        "events": [list(event) for event in new.events],
        "pads": {str(number): meant for number, meant in new.pads.items()},
    }


def _measure_beside(take: Take) -> None:
    """Have a worker measure a take that waits for it, once this transaction is over."""
    from oido.takes.tasks import measure_beside

    if take.measure_after is not None:
        key = str(take.pk)
        transaction.on_commit(lambda: measure_beside.enqueue(key))


def measure_overdue(student: User, assignment: Assignment) -> None:
    """Measure takes of a student that no worker has measured in time: there may be none."""
    since = timezone.now() - timedelta(seconds=settings.SERVER_MEASURES_AFTER_S)
    for take in waiting_takes(student, assignment).filter(measure_after__lte=since):
        if not is_long(take):
            try:
                measure_claimed(take)
            except Exception:
                # The page must not fail with it; the scheduler asks for it to be tried again.
                logger.exception("take %s could not be measured; it is tried again later", take.pk)


def waiting_takes(student: User, assignment: Assignment) -> QuerySet[Take]:
    """Return the takes of a student that wait to be measured soon; not those that are put off for long."""
    return Take.objects.filter(
        assignment=assignment, student=student, deleted_at=None, measure_after__lte=timezone.now() + SOON
    )


def measure_claimed(take: Take) -> None:
    """Measure a take that is due, unless somebody else is at it or has done so. Whoever is stopped in the midst of it
    leaves it to be measured a minute later."""
    now = timezone.now()
    if Take.objects.filter(pk=take.pk, measure_after__lte=now).update(measure_after=now + SOON):
        with suppress(TakeIsGone):
            measure_take(take)


def _measure_or_queue(take: Take) -> None:
    """Measure a take that waits for it; a long one in the background."""
    if take.measure_after is None:
        return
    if is_long(take):
        measure_soon([take])
    else:
        measure_take(take)


def measure_soon(takes: Iterable[Take]) -> None:
    """Have takes measured in the background."""
    keys = [take.pk for take in takes]
    Take.objects.filter(pk__in=keys).update(measure_after=MEASURE_AT_ONCE)
    ask_for(MEASURE_WAITING, key="waiting")


def measure_take(take: Take) -> Judgement:
    """Measure a stored take with the code as it is now, judge it, and let that count: measured outside of any
    lock, stored under its own.

    It is judged by the rubric that it was judged by, once it is handed in; before that by its assignment's.
    Raise TakeIsGone where there is no such take any more.
    """
    return measured_and_stored(take, store_judgement)


Stored = TypeVar("Stored")


def measured_and_stored(
    take: Take,
    store: Callable[[Take, Facts], Stored],
    *,
    settings: TakeSettings | None = None,
    others: Sequence[tuple[str, Imprint]] = (),
) -> Stored:
    """Measure a take without a lock, then lock it and hand it over to be stored. What changed meanwhile (a pass,
    a setting) is measured anew. `settings` are those that it is to have; `others` as `measured` has them."""
    for _try in range(TRIES):
        fresh = Take.objects.select_related(*MEASURED_WITH).filter(pk=take.pk).first()
        if fresh is None:
            raise TakeIsGone
        read = fresh.measurement_inputs
        facts = measured(fresh, settings=settings, others=others)
        with transaction.atomic():
            # The row alone: joined rows would be locked with it.
            locked = Take.objects.select_for_update().filter(pk=take.pk).first()
            if locked is None:
                raise TakeIsGone
            if locked.measurement_inputs == read:
                measurement = store(locked, facts)
                take.judgement, take.proposed = locked.judgement, locked.proposed
                take.measure_after = locked.measure_after
                return measurement
    raise RuntimeError(f"take {take.pk} changes faster than it is measured")


def store_judgement(locked: Take, facts: Facts) -> Judgement:
    """Judge the facts of a locked take and store the judgement, which counts from now on."""
    is_marked = locked.is_handed_in and locked.judgement is not None and hasattr(locked, "sheet")
    version = locked.judgement.rubric if is_marked and locked.judgement else locked.assignment.rubric
    made = add_judgement(locked, store_measurement(locked, facts), facts, version)
    point_at(locked, judgement=made, proposed=None)
    return made
