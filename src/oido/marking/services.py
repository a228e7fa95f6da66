"""What teachers do with a take: change its mark, accept and release it, ask for another one."""

import logging
from collections.abc import Iterable, Mapping

from django.db import transaction
from django.utils import timezone

from ear.facts.facts import Facts
from ear.judging.judgement import TeacherScore
from ear.judging.settings import NoteOverride, Reason, TakeSettings
from ear.note_place import NotePlace, PlaceKind
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.exercises.models import TargetPart
from oido.jobs.services import ask_for
from oido.marking.history import Kind, check_state, last_change, put_back, record_undo, recording_change
from oido.marking.models import MarkSheet, SheetChange
from oido.marking.sheets import conclude_mark
from oido.people.models import User
from oido.people.queries import teaches
from oido.takes.judging import add_judgement, judged, measured, point_at
from oido.takes.kits import read_pads
from oido.takes.models import Take
from oido.takes.overrides import place_of
from oido.takes.services import measure_soon, measured_and_stored, store_judgement
from oido.takes.sizes import is_long

logger = logging.getLogger(__name__)


class NotMarkedYet(NotAllowed):
    """The rubric asks for something that the teacher has not marked."""


def may_mark(teacher: User, take: Take) -> bool:
    """Return whether the user may mark it.

    Teachers mark what was handed in to their own classes; a head, in any class of the school.
    """
    return take.handed_in_at is not None and teaches(teacher, take.assignment.school_class)


def locked_to_mark(teacher: User, take: Take, *, shown: str | None = None) -> Take:
    """Lock a take and its sheet until the transaction ends and return the take as it is stored now. `shown` is the state
    that the teacher's page showed. Raise NotAllowed, ChangedMeanwhile."""
    # Alone: joined rows would be locked with it.
    locked = Take.objects.select_for_update().get(pk=take.pk)
    if not may_mark(teacher, locked):
        raise NotAllowed
    sheet = MarkSheet.objects.select_for_update().get(take=locked)
    locked.sheet, sheet.take = sheet, locked
    check_state(locked, shown)
    return locked


def _sheet(locked: Take) -> MarkSheet:
    sheet = MarkSheet.objects.select_for_update().get(take=locked)
    locked.sheet, sheet.take = sheet, locked
    return sheet


def _save(sheet: MarkSheet, locked: Take, *changed: str) -> MarkSheet:
    sheet.save(update_fields=changed)
    conclude_mark(sheet, locked)
    return sheet


@transaction.atomic
def give_score(
    teacher: User, take: Take, criterion: str, teacher_score: TeacherScore | None, *, shown: str | None = None
) -> MarkSheet:
    """Put the teacher's score in place of the machine's, or mark what is marked by hand; None takes it back."""
    locked = locked_to_mark(teacher, take, shown=shown)
    sheet = locked.sheet
    changes = dict(sheet.changes)
    if teacher_score is None:
        changes.pop(criterion, None)
    else:
        changes[criterion] = {**teacher_score.to_json(), "by": teacher.pk}
    with recording_change(
        sheet, teacher, Kind.SCORE, criterion=criterion, why=teacher_score.why if teacher_score else ""
    ):
        sheet.changes = changes
        _save(sheet, locked, "changes")
    remember("mark_changed", actor=teacher, person=take.student, criterion=criterion)
    logger.info("criterion %s of take %s changed by %s", criterion, take.pk, teacher.pk)
    return sheet


@transaction.atomic
def give_help(teacher: User, take: Take, step: int | None, *, shown: str | None = None) -> MarkSheet:
    """Store how much help the student had, by its number in the rubric."""
    locked = locked_to_mark(teacher, take, shown=shown)
    sheet = locked.sheet
    with recording_change(sheet, teacher, Kind.HELP):
        sheet.help_step = step
        _save(sheet, locked, "help_step")
    return sheet


def set_for_take(teacher: User, take: Take, settings: TakeSettings, *, shown: str | None = None) -> MarkSheet:
    """Mark this take with settings of its own; plain ones give back what holds for all."""

    sheet = _set_now(teacher, take, settings, Kind.SETTINGS, shown)
    logger.info("take %s marked by settings of its own, by %s", take.pk, teacher.pk)
    return sheet


def measure_bar(teacher: User, take: Take, bar: int, *, again: bool, shown: str | None = None) -> MarkSheet:
    """Measure one bar of a take once more, by itself, or let it be as it was heard. Raise NoSuchPlace."""
    facts = judged(take).facts
    if take.part.free is not None or not take.part.read().first_bar <= bar <= facts.target.bars:
        raise NoSuchPlace
    sheet = _set_now(teacher, take, take.set_for_it.measuring(bar, again=again), Kind.MEASURED, shown)
    remember("said_of_note", actor=teacher, person=take.student)
    logger.info("bar %s of take %s measured again by %s", bar, take.pk, teacher.pk)
    return sheet


def place_slip(
    teacher: User, take: Take, first: int, chosen: int | None, *, shown: str | None = None
) -> MarkSheet:
    """Say where a jump was that may as well have been elsewhere: before which of the notes that it `could_land` on, of
    which `first` is the first; None leaves it where it was heard. Raise NoSuchPlace."""
    places = next((s.could_land for s in judged(take).facts.slips if s.could_land[:1] == (first,)), ())
    if chosen not in (None, *places) or (chosen is None and first not in take.set_for_it.landings):
        raise NoSuchPlace
    sheet = _set_now(teacher, take, take.set_for_it.landing(first, chosen), Kind.OVERRIDES, shown)
    remember("said_of_note", actor=teacher, person=take.student)
    logger.info("slip of take %s told at note %s by %s", take.pk, chosen, teacher.pk)
    return sheet


class LongTake(Exception):
    """Too long to be measured while somebody waits: the settings that a job is to make (`set_and_measure`)."""

    def __init__(self, settings: TakeSettings, kind: str, shown: str | None) -> None:
        super().__init__(kind)
        self.settings, self.kind, self.shown = settings, kind, shown


def _set_now(teacher: User, take: Take, settings: TakeSettings, kind: str, shown: str | None) -> MarkSheet:
    """Apply the settings now. Raise LongTake or ChangedMeanwhile."""
    if not may_mark(teacher, take):
        raise NotAllowed
    if is_long(take):
        check_state(take, shown)
        raise LongTake(settings, kind, shown)
    return set_and_measure(teacher, take, settings, kind, shown=shown)


def set_and_measure(
    teacher: User, take: Take, settings: TakeSettings, kind: str, *, shown: str | None = None
) -> MarkSheet:
    """Give a take settings of its own, measure it by them and mark it. Raise NotAllowed, ChangedMeanwhile."""

    def store(locked: Take, facts: Facts) -> MarkSheet:
        if not may_mark(teacher, locked):
            raise NotAllowed
        sheet = _sheet(locked)
        check_state(locked, shown)
        with recording_change(sheet, teacher, kind, why=settings.why if kind == Kind.SETTINGS else ""):
            locked.settings = {} if settings.is_plain else settings.to_json()
            locked.save(update_fields=["settings"])
            store_judgement(locked, facts)
            conclude_mark(sheet, locked)
        return sheet

    return measured_and_stored(take, store, settings=settings)


class NoSuchPlace(NotAllowed):
    """There is no such note, bar or slip in the take."""


@transaction.atomic
def override_place(
    teacher: User,
    take: Take,
    place: NotePlace,
    override: NoteOverride | None,
    *,
    reason: Reason | None = None,
    for_all: bool = False,
    shown: str | None = None,
) -> MarkSheet:
    """Say of a note or a bar that it counts as right, or does not count; None takes it back. With `for_all` it holds in
    all takes of the part: those that are not released follow in the background. Raise NoSuchPlace."""
    locked = locked_to_mark(teacher, take, shown=shown)
    sheet = locked.sheet
    facts = judged(locked).facts
    if not _is_there(facts, place):
        raise NoSuchPlace
    part = _part_for_all(teacher, locked) if for_all else None
    with recording_change(sheet, teacher, Kind.OVERRIDES, why=reason or "", part=part):
        settings = locked.set_for_it.with_override(place, override, reason)
        locked.settings = {} if settings.is_plain else settings.to_json()
        locked.save(update_fields=["settings"])
        if part is not None:
            _accept_for_all(part, locked, facts, place, override, reason)
        _judge_anew(locked)
        conclude_mark(sheet, locked)
    remember("said_of_note", actor=teacher, person=take.student)
    logger.info("%s of take %s said to be %s by %s", place, take.pk, override, teacher.pk)
    return sheet


def _is_there(facts: Facts, place: NotePlace) -> bool:
    match place.kind:
        case PlaceKind.TARGET:
            return place.number < facts.target.notes
        case PlaceKind.PLAYED:
            return place.number in facts.rows.take
        case PlaceKind.BAR:
            return 1 <= place.number <= facts.target.bars


def _judge_anew(locked: Take) -> None:
    """By the facts that there are; nothing is measured."""
    current = locked.judgement
    if current is None:
        return
    facts = judged(locked).facts
    made = add_judgement(locked, current.measurement, facts, current.rubric)
    point_at(locked, judgement=made, proposed=None)


def _part_for_all(teacher: User, locked: Take) -> TargetPart:
    """Return the take's part, locked, to override something in all its takes. Raise NoSuchPlace or NotAllowed."""
    if locked.part.free is not None:
        raise NoSuchPlace
    if locked.exercise.owner_id != teacher.pk and not teacher.is_head:
        raise NotAllowed
    locked.part = TargetPart.objects.select_for_update().get(pk=locked.part_id)
    return locked.part


def _accept_for_all(
    part: TargetPart,
    locked: Take,
    facts: Facts,
    place: NotePlace,
    override: NoteOverride | None,
    reason: Reason | None,
) -> None:
    """Let the exercise learn it: stored with the part, so that takes of another part are not touched."""
    key = str(place)
    if place.kind is PlaceKind.PLAYED:
        tick, pitch = place_of(locked, facts, place.number)
        key = f"{tick}:{pitch}"
    accepted = {name: value for name, value in part.accepted.items() if name != key}
    if override is not None:
        accepted[key] = [override.value, reason.value if reason else ""]
    part.accepted = accepted
    part.save(update_fields=["accepted"])
    _judge_others(locked, part)


def _judge_others(locked: Take, part: TargetPart) -> None:
    """Have the other takes of a part judged again in the background."""
    others = Take.objects.filter(part=part, handed_in_at__isnull=False, student__erased_as="")
    others = others.exclude(pk=locked.pk)
    keys = [str(key) for key in others.values_list("pk", flat=True)]
    if keys:
        ask_for("marking.judge_takes", school=locked.school, takes=keys)


def read_pads_as(teacher: User, take: Take, meant: Mapping[int, int], *, shown: str | None = None) -> None:
    """Read pads of a student's set-up so, in this take at once and in the others in the background. Marks that
    students have seen stay until a teacher agrees, but for this one: it is what was agreed to."""
    if not may_mark(teacher, take):
        raise NotAllowed
    check_state(take, shown)
    others = [other for other in read_pads(take, meant) if other.pk != take.pk]

    def store(locked: Take, facts: Facts) -> None:
        if not may_mark(teacher, locked):
            raise NotAllowed
        sheet = _sheet(locked)
        store_judgement(locked, facts)
        conclude_mark(sheet, locked)

    if is_long(take):
        measure_soon([take])
    else:
        measured_and_stored(take, store)
    if others:
        measure_soon(others)
    logger.info("pads of take %s read as %s, by %s", take.pk, dict(meant), teacher.pk)


@transaction.atomic
def accept(teacher: User, take: Take, *, and_release: bool = False, shown: str | None = None) -> MarkSheet:
    """Accept a mark. The first time counts. Raise NotMarkedYet."""
    locked = locked_to_mark(teacher, take, shown=shown)
    sheet = locked.sheet
    if not sheet.is_whole:
        raise NotMarkedYet
    now = timezone.now()
    with recording_change(sheet, teacher, Kind.RELEASED if and_release else Kind.ACCEPTED):
        sheet.accepted_at = sheet.accepted_at or now
        if and_release and sheet.released_by is None:
            # Seen at once by the student, it may have been released without a teacher.
            sheet.released_at, sheet.released_by = sheet.released_at or now, teacher
            remember("mark_released", actor=teacher, person=take.student)
            logger.info("mark of take %s released by %s", locked.pk, teacher.pk)
        sheet.asked_again_at = None
        sheet.save(update_fields=["accepted_at", "released_at", "released_by", "asked_again_at"])
    return sheet


def release(teacher: User, take: Take) -> MarkSheet:
    """Let the student see mark and remarks."""
    return accept(teacher, take, and_release=True)


@transaction.atomic
def ask_again(teacher: User, take: Take, *, why: str, shown: str | None = None) -> MarkSheet:
    """Ask the student for another take, whatever the due date; not once the mark is released."""
    locked = locked_to_mark(teacher, take, shown=shown)
    sheet = locked.sheet
    if sheet.is_released:
        raise NotAllowed
    with recording_change(sheet, teacher, Kind.ASKED_AGAIN, why=why):
        sheet.asked_again_at, sheet.asked_again_why, sheet.accepted_at = timezone.now(), why, None
        sheet.save(update_fields=["asked_again_at", "asked_again_why", "accepted_at"])
    remember("asked_again", actor=teacher, person=take.student)
    logger.info("another take instead of %s asked for by %s", take.pk, teacher.pk)
    return sheet


@transaction.atomic
def undo(teacher: User, changes: Iterable[SheetChange]) -> list[MarkSheet]:
    """Put sheets back as they were before these changes: all of them, or none. Raise Overtaken, AlreadySeen."""
    undone = []
    for change in changes:
        locked = locked_to_mark(teacher, change.sheet.take)
        sheet = locked.sheet
        was_released, points = sheet.is_released, sheet.points
        part = _part_for_all(teacher, locked) if "accepted" in change.before else None
        undone_change = SheetChange.objects.select_for_update().get(pk=change.pk)
        put_back(sheet, undone_change, part=part)
        before, after = (TakeSettings.from_json(one["settings"]) for one in (change.before, change.after))
        if before.heard != after.heard and is_long(locked):
            measure_soon([locked])
        elif before.heard != after.heard:
            store_judgement(locked, measured(locked))
        elif before != after or part is not None:
            _judge_anew(locked)
        if part is not None:
            _judge_others(locked, part)
        conclude_mark(sheet, locked)
        record_undo(sheet, teacher, undone_change, points_before=points)
        if was_released and not sheet.is_released:
            remember("release_taken_back", actor=teacher, person=locked.student)
            logger.info("release of take %s taken back by %s", locked.pk, teacher.pk)
        undone.append(sheet)
    return undone


@transaction.atomic
def take_back_release(teacher: User, take: Take, *, shown: str | None = None) -> MarkSheet:
    """Take back a released mark that the student has not read.

    Raise NotAllowed, AlreadySeen or ChangedMeanwhile.
    """
    locked = locked_to_mark(teacher, take, shown=shown)
    last = last_change(locked.sheet, Kind.RELEASED)
    if last is None:
        raise NotAllowed
    return undo(teacher, [last])[0]
