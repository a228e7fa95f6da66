"""Hand takes in."""

import logging
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from ear.facts.facts import Facts
from ear.judging.shown import EXPLAINED, SHOWN, measured_by_itself
from ear.measuring.fairness import Imprint, imprint
from ear.practice.rules import RecordingRules
from ear.practice.showing import Skill
from oido.assignments.models import Assignment, FeedbackVisibility
from oido.assignments.student_terms import get_student_terms
from oido.common.permissions import NotAllowed
from oido.common.sources import Source
from oido.marking.models import MarkSheet
from oido.marking.sheets import conclude_mark, lateness_of
from oido.people.models import User
from oido.takes.doubts import is_of_exercise, submission_blocker
from oido.takes.judging import judged, measured
from oido.takes.models import HandIn, Take
from oido.takes.services import MEASURED_WITH, TRIES, NewTake, measure_soon, receive_take, store_judgement
from oido.takes.showing import NO_ANSWERS, showing_of
from oido.takes.sizes import is_long

ANSWERS_NAMESPACE = uuid.UUID("8a0c2d5b-2f0e-4e5c-9b1a-6b1de0f3a7c1")
logger = logging.getLogger(__name__)


class TooFewTakes(NotAllowed):
    """The exercise asks for more takes before one is handed in."""


class WrongNumber(NotAllowed):
    """The exercise asks for another number of takes to be handed in together."""


class NothingShown(NotAllowed):
    """Something is to be shown in a copy of the take, and there is none."""


class NotToBeHandedIn(NotAllowed):
    """A take is deleted, of another exercise, or at a tempo or in a key that the exercise does not ask for."""


class Closed(NotAllowed):
    """Its teacher has closed or withdrawn it, or takes nothing after the due date."""


class TooLate(NotAllowed):
    """What was handed in can be changed until the due date."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Submission:
    """What is handed in of one assignment: its takes, and the answers to its questions."""

    takes: tuple[Take, ...]
    answers: tuple[tuple[str, str], ...] = ()


def hand_in(
    student: User,
    *takes: Take,
    note: str = "",
    answers: Sequence[tuple[str, str]] = (),
    explained: Mapping[Skill, str] = NO_ANSWERS,
) -> HandIn:
    """Hand in takes of one assignment, in place of those handed in before; once a teacher has
    released a mark, no more. The same takes again change only what is said with them.

    Takes are compared with those of the class and measured before anything is locked; class-mates wait for
    nobody.
    """
    submission = Submission(takes=takes, answers=tuple(answers))
    [made] = _hand_in_all(student, [submission], note=note, explained=explained)
    return made


def _hand_in_all(
    student: User,
    submissions: Sequence[Submission],
    *,
    note: str = "",
    explained: Mapping[Skill, str] = NO_ANSWERS,
) -> list[HandIn]:
    """Measure the takes of all assignments, then lock and hand in all of them, or none."""
    for submission in submissions:
        takes = submission.takes
        first = takes[0]
        if any(t.student_id != student.pk or t.assignment_id != first.assignment_id for t in takes):
            raise NotAllowed
    for _try in range(TRIES):
        measured = _measured([take for submission in submissions for take in submission.takes])
        try:
            with transaction.atomic():
                made = [
                    _handed_in(
                        student, one.takes, measured, note=note, answers=one.answers, explained=explained
                    )
                    for one in submissions
                ]
        except _Changed:
            continue
        long = [take for one in submissions for take in one.takes if take.pk in measured and is_long(take)]
        if long:
            measure_soon(long)
        return made
    raise RuntimeError("takes change faster than they are measured")


def hand_in_answers(
    student: User, assignment: Assignment, *, note: str = "", answers: Sequence[tuple[str, str]] = ()
) -> HandIn:
    """Hand in answers where nothing is recorded: an empty take stands for them, to be marked like any other."""
    return hand_in(student, take_of_answers(student, assignment), note=note, answers=answers)


def take_of_answers(student: User, assignment: Assignment) -> Take:
    """Return the empty take that stands for answers, made if there is none yet. Raise NotAllowed where something is
    recorded.
    """
    student_terms = get_student_terms(assignment, student)
    if not student_terms.rules.has_questions_only:
        raise NotAllowed
    return Take.objects.filter(assignment=assignment, student=student).first() or receive_take(
        student,
        assignment,
        NewTake(
            id=uuid.uuid5(ANSWERS_NAMESPACE, f"{assignment.pk} {student.pk}"), part_id=student_terms.exercise.part_in_force.pk,
            events=[], source=Source.NONE, device="", latency_ms=0.0, recorded_at=timezone.now(),
        ),
    )  # fmt: skip


def hand_in_together(student: User, submissions: Sequence[Submission]) -> None:
    """Hand in takes and answers of several assignments at once: all of them, or none."""
    _hand_in_all(student, submissions)


class _Changed(Exception):
    """A take is another one than was measured."""


def _measured(takes: Sequence[Take]) -> dict[uuid.UUID, tuple[tuple[object, ...], Facts]]:
    """Facts of those that are not handed in yet, with what they depend on."""
    facts_by_take = {}
    for take in takes:
        fresh = Take.objects.select_related(*MEASURED_WITH).get(pk=take.pk)
        if fresh.handed_in_at is not None:
            continue
        # A long take is compared with those of the class in the background, once it is handed in.
        is_known = fresh.measure_after is None and judged(fresh).is_readable and is_long(fresh)
        facts = judged(fresh).facts if is_known else measured(fresh, others=imprints_of_others(fresh))
        facts_by_take[fresh.pk] = (fresh.measurement_inputs, facts)
    return facts_by_take


def _handed_in(
    student: User,
    takes: Sequence[Take],
    measured: Mapping[uuid.UUID, tuple[tuple[object, ...], Facts]],
    *,
    note: str,
    answers: Sequence[tuple[str, str]],
    explained: Mapping[Skill, str],
) -> HandIn:
    assignment = Assignment.objects.select_related("exercise").get(pk=takes[0].assignment_id)
    student_terms = get_student_terms(assignment, student)
    rules = student_terms.rules
    own = list(
        Take.objects.select_for_update().filter(assignment=assignment, student=student).order_by("number")
    )
    wanted = {take.pk for take in takes}
    chosen = [take for take in own if take.pk in wanted]
    if not all(is_of_exercise(take, student_terms) for take in chosen):
        raise NotToBeHandedIn
    of_exercise = Take.objects.filter(
        assignment=assignment, student=student, part__exercise=student_terms.exercise
    )
    if of_exercise.count() < rules.least_takes:
        raise TooFewTakes
    if len(wanted) != rules.handed_in_takes:
        raise WrongNumber
    if MarkSheet.objects.filter(take__in=own, released_by__isnull=False).exists():
        raise NotAllowed
    now = timezone.now()
    is_asked_again = MarkSheet.objects.filter(
        take__in=own, take__handed_in_at__isnull=False, asked_again_at__isnull=False
    ).exists()
    if rules.is_by_ear and any(take.is_handed_in for take in own) and not is_asked_again:
        # The part has been seen since.
        raise TooLate
    if not student_terms.accepts_submissions(now) and not is_asked_again:
        raise Closed
    if any(take.is_handed_in for take in own) and student_terms.is_late(now) and not is_asked_again:
        raise TooLate
    if any(submission_blocker(take, student_terms, part=take.part.read()) for take in chosen):
        raise NotToBeHandedIn
    for other in own:
        if other.pk not in wanted and other.handed_in_at is not None:
            other.handed_in_at = None
            other.save(update_fields=["handed_in_at"])
    for take in chosen:
        if take.handed_in_at is None:
            if take.pk not in measured or measured[take.pk][0] != take.measurement_inputs:
                raise _Changed
            take.handed_in_at = now
            take.save(update_fields=["handed_in_at"])
            store_judgement(take, measured[take.pk][1])
        if rules.to_show and not hasattr(take, "corrected"):
            raise NothingShown
        open_sheet(take, shows_anew=_show(take, rules, explained))
    values = {"note": note, "answers": [list(pair) for pair in answers], "changed_at": now}
    made, _ = HandIn.objects.update_or_create(
        assignment=assignment, student=student, defaults=values, create_defaults={**values, "first_at": now}
    )
    logger.info("takes %s handed in", ", ".join(str(pk) for pk in wanted))
    return made


def _show(take: Take, rules: RecordingRules, explained: Mapping[Skill, str]) -> bool:
    """Keep what the copy shows and what is said of it; whether that is something new."""
    showing = showing_of(take, rules, explanations=explained)
    shown = showing.to_json() if showing is not None else None
    if shown == take.shown:
        return False
    take.shown = shown
    take.save(update_fields=["shown"])
    return True


def imprints_of_others(take: Take) -> list[tuple[str, Imprint]]:
    """Return imprints of what classmates have handed in, each with its student.

    An imprint takes a few bytes a note, without events. Takes measured by an older version have none yet, so
    they are read.
    """
    others = (
        Take.objects.filter(assignment_id=take.assignment_id, handed_in_at__isnull=False)
        .exclude(student_id=take.student_id)
        .select_related("student")
    )
    imprints, unknown = [], []
    stored = others.annotate(imprint=F("judgement__measurement__imprint")).only("pk", "student")
    for row in stored:
        if row.imprint is None:
            unknown.append(row.pk)
        else:
            imprints.append((row.student.name, Imprint.from_bytes(bytes(row.imprint))))
    for other in others.filter(pk__in=unknown).prefetch_related("passes"):
        imprints.append((other.student.name, imprint(other.read())))
    return imprints


def _tick(take: Take, sheet: MarkSheet) -> None:
    """Of a sheet that was there before."""
    changes = {key: value for key, value in sheet.changes.items() if key not in (SHOWN, EXPLAINED)}
    if take.showing is not None:
        changes[SHOWN] = measured_by_itself(take.showing).to_json()
    sheet.changes = changes
    sheet.save(update_fields=["changes"])
    conclude_mark(sheet, take)


def _count_late(take: Take, sheet: MarkSheet) -> None:
    """Count again how late a take is. A released mark stays as it is until a teacher has it concluded again."""
    if not sheet.is_released and judged(take).is_readable:
        conclude_mark(sheet, take)
        return
    days = lateness_of(take).days
    if sheet.late_days != days:
        sheet.late_days = days
        sheet.save(update_fields=["late_days"])


@transaction.atomic
def count_late_again(assignment: Assignment) -> None:
    """Count lateness again for everything handed in for an assignment whose due dates or terms have changed."""
    takes = Take.objects.select_for_update().filter(assignment=assignment, handed_in_at__isnull=False)
    for take in takes.order_by("pk"):
        sheet = MarkSheet.objects.select_for_update().filter(take=take).first()
        if sheet is not None:
            _count_late(take, sheet)


def open_sheet(take: Take, *, shows_anew: bool = False) -> MarkSheet:
    """Return the take's mark sheet, made from its judgement if there is none yet.

    If the assignment says so, the student sees it at once. What the copy shows is ticked automatically; a new
    remark counts as unread.
    """
    sheet = MarkSheet.objects.filter(take=take).first()
    if sheet is not None:
        if shows_anew:
            _tick(take, sheet)
        _count_late(take, sheet)
        return sheet
    made = MarkSheet(take=take)
    if take.showing is not None:
        made.changes = {SHOWN: measured_by_itself(take.showing).to_json()}
    conclude_mark(made, take, save=False)
    if take.assignment.seen == FeedbackVisibility.AT_ONCE and made.is_whole:
        made.accepted_at = made.released_at = timezone.now()
    made.save()
    return made
