"""Give exercises, to whom and how; change, withdraw and close what was given; arrange it for one student; remind."""

import logging
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from django.conf import settings
from django.db import transaction
from django.urls import reverse
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext as _
from django.utils.translation import override

from oido.assignments.models import (
    Arrangement,
    Assignment,
    BookletAssignment,
    FeedbackVisibility,
    Late,
    Reminder,
)
from oido.assignments.student_terms import StudentTerms, StudentTermsTable
from oido.audit.services import remember
from oido.booklets.models import Booklet
from oido.booklets.queries import items_of
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise
from oido.people.models import SchoolClass, User
from oido.people.queries import teaches
from oido.post.services import write_letter
from oido.rubrics.models import RubricVersion
from oido.rubrics.queries import visible_rubrics

REMINDED_EVERY = timedelta(days=1)
TERMS_CHANGED: list[Callable[[Assignment], object]] = []
"""Apps above add what follows from other dates and terms: each is called within the change."""
logger = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True, kw_only=True)
class Terms:
    """How something is given. None stands for as the exercise says, or for Oido's own rubric."""

    late: str = Late.TAKEN
    attempts: int | None = None
    slower_percent: int | None = None
    faster_percent: int | None = None
    rubric: RubricVersion | None = None
    seen: str = FeedbackVisibility.ANALYSIS

    @classmethod
    def of(cls, assignment: Assignment) -> "Terms":
        return cls(**{name: getattr(assignment, name) for name in cls.__slots__})

    def fields(self) -> dict[str, object]:
        return {name: getattr(self, name) for name in self.__slots__}


@dataclass(frozen=True, slots=True, kw_only=True)
class Arranged:
    """What is arranged for one student; plain where there is nothing."""

    is_excused: bool = False
    excused_why: str = ""
    due_at: datetime | None = None
    attempts: int | None = None
    slower_percent: int | None = None
    version: Exercise | None = None


def classes_that_have(exercise: Exercise, classes: Iterable[SchoolClass]) -> list[SchoolClass]:
    """Return those of the classes to which the exercise is given and not withdrawn."""
    known = set(
        Assignment.objects.filter(exercise=exercise, withdrawn_at=None).values_list("school_class", flat=True)
    )
    return [one for one in classes if one.pk in known]


def _check_rubric(
    teacher: User, exercise: Exercise, rubric: RubricVersion | None, *, had: int | None = None
) -> None:
    if rubric is None or rubric.pk == had:
        return
    if not visible_rubrics(teacher).filter(pk=rubric.rubric_id, kind=exercise.kind).exists():
        raise NotAllowed


@transaction.atomic
@dataclass(frozen=True, slots=True, kw_only=True)
class Gift:
    """To whom something is given, and when: all of a class, or some of its students."""

    school_class: SchoolClass
    due_at: datetime
    opens_at: datetime | None
    students: Collection[User] | None


@transaction.atomic
def give_exercise_to_all(
    teacher: User, exercise: Exercise, gifts: Iterable[Gift], *, terms: Terms
) -> list[Assignment]:
    """Give an exercise to several classes: to all of them, or to none. Raise NotAllowed."""
    return [
        give_exercise(
            teacher, exercise, gift.school_class, due_at=gift.due_at, opens_at=gift.opens_at,
            students=gift.students, terms=terms,
        )
        for gift in gifts
    ]  # fmt: skip


@transaction.atomic
def give_booklet_to_all(
    teacher: User, booklet: Booklet, gifts: Iterable[Gift], *, terms: Terms, a_week: int | None
) -> list[BookletAssignment]:
    """Give a booklet to several classes: to all of them, or to none. Raise NotAllowed."""
    return [
        give_booklet(
            teacher, booklet, gift.school_class, due_at=gift.due_at, opens_at=gift.opens_at,
            students=gift.students, terms=terms, a_week=a_week,
        )
        for gift in gifts
    ]  # fmt: skip


@transaction.atomic
def give_exercise(
    teacher: User,
    exercise: Exercise,
    school_class: SchoolClass,
    *,
    due_at: datetime,
    opens_at: datetime | None = None,
    students: Collection[User] | None = None,
    terms: Terms | None = None,
) -> Assignment:
    """Give an exercise to one of the teacher's classes, or to some students of it; not an empty page, and nothing that
    is retired."""
    terms = terms or Terms()
    if (
        not teaches(teacher, school_class)
        or school_class.archived_at is not None
        or exercise.school_id != teacher.school_id
        or not exercise.is_current
        or not exercise.is_assignable
        or (opens_at is not None and opens_at >= due_at)
    ):
        raise NotAllowed
    _check_rubric(teacher, exercise, terms.rubric)
    assignment = Assignment.objects.create(
        school_id=exercise.school_id,
        exercise=exercise,
        school_class=school_class,
        is_for_all=students is None,
        given_by=teacher,
        given_at=timezone.now(),
        opens_at=opens_at,
        due_at=due_at,
        **terms.fields(),
    )
    if students is not None:
        _give_to(assignment, students)
    remember("exercise_given", actor=teacher, school_class=school_class, title=exercise.title)
    logger.info("exercise %s given to class %s", exercise.pk, school_class.pk)
    return assignment


WEEK = timedelta(days=7)


def to_give(booklet: Booklet) -> list[Exercise]:
    """Return the booklet's exercises in order, without retired or empty ones."""
    exercises = [item.exercise for item in items_of(booklet)]
    return [one for one in exercises if one.is_current and one.is_assignable]


@transaction.atomic
def give_booklet(
    teacher: User,
    booklet: Booklet,
    school_class: SchoolClass,
    *,
    due_at: datetime,
    opens_at: datetime | None = None,
    students: Collection[User] | None = None,
    terms: Terms | None = None,
    a_week: int | None = None,
) -> BookletAssignment:
    """Give all exercises of a booklet in order, at once or so many a week, the first ones due on the first
    date.

    Retired and empty exercises are left out. A booklet with nothing left is not given.
    """
    exercises = to_give(booklet)
    if not exercises or booklet.school_id != school_class.school_id or not teaches(teacher, school_class):
        raise NotAllowed
    assignment = _get_booklet_assignment(teacher, booklet, school_class)
    for place, exercise in enumerate(exercises):
        week = WEEK * (place // a_week) if a_week else timedelta()
        # Later weeks open as long after the first one as they are due after it.
        opens = opens_at if not week else _days_later(opens_at or timezone.now(), week)
        made = give_exercise(
            teacher, exercise, school_class, due_at=_days_later(due_at, week), students=students, terms=terms,
            opens_at=opens,
        )  # fmt: skip
        _put_into(made, assignment, place=place)
    return assignment


def _get_booklet_assignment(teacher: User, booklet: Booklet, school_class: SchoolClass) -> BookletAssignment:
    return BookletAssignment.objects.create(
        school_id=school_class.school_id, booklet=booklet, school_class=school_class, given_by=teacher,
        given_at=timezone.now(),
    )  # fmt: skip


def _put_into(made: Assignment, assignment: BookletAssignment, *, place: int) -> None:
    made.booklet, made.place = assignment, place
    made.save(update_fields=["booklet", "place"])


def _give_to(assignment: Assignment, students: Collection[User]) -> None:
    wanted = {one.pk for one in students}
    known = set(assignment.school_class.students.filter(pk__in=wanted).values_list("pk", flat=True))
    if not wanted or known != wanted:
        raise NotAllowed
    Arrangement.objects.bulk_create(
        Arrangement(assignment=assignment, student_id=key, is_given=True) for key in sorted(wanted)
    )


def _locked(teacher: User, assignment: Assignment) -> Assignment:
    locked = Assignment.objects.select_for_update().get(pk=assignment.pk)
    if not teaches(teacher, locked.school_class):
        raise NotAllowed
    return locked


def _changed(locked: Assignment) -> None:
    for follow in TERMS_CHANGED:
        follow(locked)


@transaction.atomic
def change_assignment(
    teacher: User, assignment: Assignment, *, due_at: datetime, opens_at: datetime | None, terms: Terms
) -> Assignment:
    """Change dates and terms. The rubric is changed elsewhere, where all takes are marked again."""
    locked = _locked(teacher, assignment)
    if opens_at is not None and opens_at >= due_at:
        raise NotAllowed
    locked.due_at, locked.opens_at = due_at, opens_at
    for name, value in replace(terms, rubric=locked.rubric).fields().items():
        setattr(locked, name, value)
    locked.save()
    _changed(locked)
    remember("given_changed", actor=teacher, school_class=locked.school_class, title=locked.exercise.title)
    return locked


@transaction.atomic
def withdraw(teacher: User, assignment: Assignment, *, is_withdrawn: bool) -> Assignment:
    """Hide an assignment from students, or show it again. What they recorded stays."""
    locked = _locked(teacher, assignment)
    if (locked.withdrawn_at is not None) != is_withdrawn:
        locked.withdrawn_at = timezone.now() if is_withdrawn else None
        locked.save(update_fields=["withdrawn_at"])
        code = "given_withdrawn" if is_withdrawn else "given_restored"
        remember(code, actor=teacher, school_class=locked.school_class, title=locked.exercise.title)
    return locked


@transaction.atomic
def close(teacher: User, assignment: Assignment, *, is_closed: bool) -> Assignment:
    """Stop all handing in, whatever the due date, or allow it again."""
    locked = _locked(teacher, assignment)
    if (locked.closed_at is not None) != is_closed:
        locked.closed_at = timezone.now() if is_closed else None
        locked.save(update_fields=["closed_at"])
        code = "given_closed" if is_closed else "given_reopened"
        remember(code, actor=teacher, school_class=locked.school_class, title=locked.exercise.title)
    return locked


@transaction.atomic
def arrange(teacher: User, assignment: Assignment, student: User, arranged: Arranged) -> Arrangement:
    """Store the terms for one student of the class. They replace any earlier ones."""
    locked = _locked(teacher, assignment)
    if not locked.school_class.students.filter(pk=student.pk).exists():
        raise NotAllowed
    version = arranged.version
    if version is not None:
        is_fit = version.school_id == locked.school_id and version.kind == locked.exercise.kind
        if not is_fit or not version.is_assignable:
            raise NotAllowed
    row, _is_new = Arrangement.objects.select_for_update().get_or_create(assignment=locked, student=student)
    excused_at = (row.excused_at or timezone.now()) if arranged.is_excused else None
    row.excused_at, row.excused_why = excused_at, arranged.excused_why if arranged.is_excused else ""
    row.due_at, row.attempts, row.slower_percent = arranged.due_at, arranged.attempts, arranged.slower_percent
    row.version = version
    row.save()
    _changed(locked)
    remember(
        "given_arranged", actor=teacher, person=student, school_class=locked.school_class,
        title=locked.exercise.title,
    )  # fmt: skip
    return row


@transaction.atomic
def give_again(
    teacher: User, before: SchoolClass, school_class: SchoolClass, *, first_due_at: datetime
) -> list[Assignment]:
    """Give one class's assignments to another class.

    The first is due on the first date, the others as many days later as before. Booklets stay booklets. What
    the other class already has is left out, so asking twice gives everything once.
    """
    if not teaches(teacher, before):
        raise NotAllowed
    SchoolClass.objects.select_for_update().get(pk=school_class.pk)
    rows = before.assignments.filter(
        withdrawn_at=None, is_for_all=True, exercise__retired_at=None, exercise__deleted_at=None
    )
    earlier = list(rows.select_related("exercise", "rubric", "booklet__booklet").order_by("due_at", "pk"))
    if not earlier:
        return []
    # Whole days, so that what is due at the end of a day stays so over a change of the clock.
    first = timezone.localtime(earlier[0].due_at).date()
    days = timezone.localtime(first_due_at).date() - first
    has = set(school_class.assignments.filter(withdrawn_at=None).values_list("exercise", flat=True))
    booklets: dict[int, BookletAssignment] = {}
    made = []
    for assignment in earlier:
        if assignment.exercise_id in has:
            continue
        opens_at = _days_later(assignment.opens_at, days) if assignment.opens_at is not None else None
        new = give_exercise(
            teacher, assignment.exercise, school_class, due_at=_days_later(assignment.due_at, days), opens_at=opens_at,
            terms=Terms.of(assignment),
        )  # fmt: skip
        if assignment.booklet is not None:
            if assignment.booklet.pk not in booklets:
                booklets[assignment.booklet.pk] = _get_booklet_assignment(
                    teacher, assignment.booklet.booklet, school_class
                )
            _put_into(new, booklets[assignment.booklet.pk], place=assignment.place)
        made.append(new)
    return made


def _days_later(at: datetime, days: timedelta) -> datetime:
    local = timezone.localtime(at)
    return timezone.make_aware(local.replace(tzinfo=None) + days)


@transaction.atomic
def remind(teacher: User, assignment: Assignment, students: Iterable[User]) -> list[User]:
    """Remind these of what they have not handed in, by page and by mail, nobody more than once a day; who was."""
    locked = _locked(teacher, assignment)
    now = timezone.now()
    lately = set(locked.reminders.filter(sent_at__gt=now - REMINDED_EVERY).values_list("student", flat=True))
    of_class = set(locked.school_class.students.values_list("pk", flat=True))
    terms_table = StudentTermsTable([locked])
    reminded = []
    for student in students:
        student_terms = terms_table.of(locked.pk, student.pk)
        if student.pk in lately or student.pk not in of_class or not student_terms.is_asked:
            continue
        Reminder.objects.create(assignment=locked, student=student, by=teacher, sent_at=now)
        if student.email:
            with override(student.language or locked.school.language):
                _write_reminder(teacher, student, student_terms)
        reminded.append(student)
    if reminded:
        remember(
            "students_reminded", actor=teacher, school_class=locked.school_class, title=locked.exercise.title,
            n=len(reminded),
        )  # fmt: skip
    return reminded


def _write_reminder(teacher: User, student: User, student_terms: StudentTerms) -> None:
    assignment, title = student_terms.assignment, student_terms.exercise.title
    body = _(
        "Hello %(name)s,\n\n%(teacher)s reminds you of “%(title)s”. It is due on %(due)s.\n%(address)s\n"
    )
    values = {
        "name": student.first_name or student.name, "teacher": teacher.name, "title": title,
        "due": date_format(timezone.localtime(student_terms.due_at), "LONG_DAY_TIME"),
        "address": settings.OWN_ADDRESS + reverse("stand", args=[assignment.pk]),
    }  # fmt: skip
    write_letter(
        assignment.school, to=student.email, purpose="reminder", person=student,
        subject=_("Still to be handed in: %(title)s") % {"title": title}, body=body % values,
    )  # fmt: skip
