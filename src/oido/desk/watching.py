"""Who is where with an assignment: opened, practised, recorded, handed in."""

import hashlib
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count, Max
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.assignments.models import Assignment, Reminder
from oido.assignments.student_terms import StudentTerms, StudentTermsTable
from oido.marking.at_desk import to_send
from oido.marking.models import MarkSheet
from oido.people.models import User
from oido.takes.models import Take, Visit

HANDED_IN, RECORDED, PRACTISED, OPENED, NOTHING, EXCUSED = (
    "handed-in", "recorded", "practised", "opened", "nothing", "excused",
)  # fmt: skip
STEPS: dict[str, object] = {
    HANDED_IN: pgettext_lazy("label", "handed in"), RECORDED: _("recorded"), PRACTISED: _("practised"), OPENED: _("opened"),
    NOTHING: _("not opened yet"), EXCUSED: pgettext_lazy("label", "excused"),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Watched:
    """One student, as far as this one is. Times are None for what was not done yet."""

    student: User
    student_terms: StudentTerms
    opened_at: datetime | None
    practised_at: datetime | None
    loops: int
    takes: int
    recorded_at: datetime | None
    """The last take."""
    sheet: MarkSheet | None
    handed_in: Take | None
    reminded_at: datetime | None

    @property
    def step(self) -> str:
        """How far it is."""
        if self.handed_in is not None:
            return HANDED_IN
        if self.student_terms.is_excused:
            return EXCUSED
        if self.takes:
            return RECORDED
        if self.practised_at is not None:
            return PRACTISED
        return OPENED if self.opened_at is not None else NOTHING

    @property
    def step_label(self) -> Any:
        return STEPS[self.step]

    @property
    def is_missing(self) -> bool:
        return self.step not in (HANDED_IN, EXCUSED)


@dataclass(frozen=True, slots=True, kw_only=True)
class Watch:
    rows: tuple[Watched, ...]
    shown: tuple[str, ...]
    """What is sent along to release the marks that are accepted, one for each."""

    @property
    def handed_in(self) -> int:
        return sum(row.step == HANDED_IN for row in self.rows)

    @property
    def asked(self) -> int:
        """Who is to hand in."""
        return sum(row.step != EXCUSED for row in self.rows)

    @property
    def missing(self) -> tuple[Watched, ...]:
        return tuple(row for row in self.rows if row.is_missing)

    @property
    def imprint(self) -> str:
        """Another one as soon as anything that is shown is another."""
        shown = [
            (
                row.student.pk, row.step, row.takes, row.loops, row.practised_at, row.recorded_at, row.reminded_at,
                row.student_terms.due_at, row.student_terms.exercise.pk,
                (row.sheet.points, row.sheet.accepted_at, row.sheet.released_at, row.sheet.seen_at)
                if row.sheet else None,
            )
            for row in self.rows
        ]  # fmt: skip
        return hashlib.sha256(repr((shown, self.shown)).encode()).hexdigest()[:16]


def watch(assignment: Assignment) -> Watch:
    """Return the watch list of a class, in seven queries whatever its size.

    Students who have left the class but handed in are included.
    """
    own = Take.objects.filter(assignment=assignment, student__erased_as="")
    counts = {
        row["student"]: row
        for row in own.filter(deleted_at=None).order_by().values("student").annotate(
            takes=Count("pk"), last=Max("recorded_at")
        )
    }  # fmt: skip
    handed_in = {
        take.student_id: take
        for take in own.filter(handed_in_at__isnull=False)
        .select_related("sheet", "student")
        .defer("events")
        .order_by("-number")
    }
    visits = {row.student_id: row for row in Visit.objects.filter(assignment=assignment)}
    reminded = dict(
        Reminder.objects.filter(assignment=assignment)
        .order_by()
        .values_list("student")
        .annotate(at=Max("sent_at"))
    )
    terms_table = StudentTermsTable([assignment])
    people = list(assignment.school_class.students.all())
    here = {person.pk for person in people}
    people += [take.student for take in handed_in.values() if take.student_id not in here]
    rows = []
    for student in sorted(people, key=lambda person: (person.last_name, person.first_name, person.pk)):
        student_terms, take = terms_table.of(assignment.pk, student.pk), handed_in.get(student.pk)
        is_excused = student_terms.is_given and student_terms.is_excused
        if take is None and not (student_terms.is_asked or is_excused):
            continue
        visit, count = visits.get(student.pk), counts.get(student.pk)
        rows.append(
            Watched(
                student=student,
                student_terms=student_terms,
                opened_at=visit.opened_at if visit else None,
                practised_at=visit.practised_at if visit else None,
                loops=visit.loops if visit else 0,
                takes=count["takes"] if count else 0,
                recorded_at=count["last"] if count else None,
                sheet=getattr(take, "sheet", None),
                handed_in=take,
                reminded_at=reminded.get(student.pk),
            )
        )
    to_release = [
        row.handed_in
        for row in rows
        if row.handed_in and row.sheet and row.sheet.accepted_at is not None and not row.sheet.is_released
    ]
    return Watch(rows=tuple(rows), shown=tuple(to_send(to_release)))
