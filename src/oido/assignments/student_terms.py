"""What an assignment asks of one student: the assignment, with what is arranged for this one over it. Asked here alone."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime

from django.utils import timezone

from ear.practice.rules import RecordingRules
from oido.assignments.models import Arrangement, Assignment, FeedbackVisibility, Late
from oido.exercises.models import Exercise
from oido.people.models import Attendance, User


@dataclass(frozen=True, slots=True, kw_only=True)
class StudentTerms:
    """An assignment as one student has it."""

    assignment: Assignment
    exercise: Exercise
    """What is played: the exercise that was given, or another one in its place."""
    due_at: datetime
    is_given: bool
    """It is for this student at all."""
    is_excused: bool
    has_more_time: bool
    arrangement: Arrangement | None
    joined_at: datetime | None = None
    """When the student joined the class; None for from the beginning."""

    @property
    def is_trial(self) -> bool:
        """Nobody was given it: a teacher looks at it as a student would, and nothing is stored."""
        return self.assignment.pk is None

    @property
    def is_before_joining(self) -> bool:
        """It was due before the student joined the class, and was not given to this student by name."""
        is_named = self.arrangement is not None and self.arrangement.is_given
        return self.joined_at is not None and self.due_at < self.joined_at and not is_named

    @property
    def is_asked(self) -> bool:
        """The student is to hand something in."""
        return self.is_given and not self.is_excused and not self.is_before_joining

    @property
    def rules(self) -> RecordingRules:
        """The exercise's, with what was said when it was given, and what is arranged."""
        own, assignment, arranged = self.exercise.recording_rules, self.assignment, self.arrangement
        attempts, slower, faster = own.attempts, own.slower_percent, own.faster_percent
        if assignment.attempts is not None:
            attempts = assignment.attempts
        if assignment.slower_percent is not None:
            slower = assignment.slower_percent
        if assignment.faster_percent is not None:
            faster = assignment.faster_percent
        if arranged is not None:
            attempts = attempts if arranged.attempts is None else arranged.attempts
            slower = slower if arranged.slower_percent is None else arranged.slower_percent
        least = own.least_takes if attempts is None else min(own.least_takes, attempts)
        return replace(
            own, attempts=attempts, slower_percent=slower, faster_percent=faster, least_takes=least,
            handed_in_takes=min(own.handed_in_takes, least),
            shows_analysis=shows_analysis(assignment, self.exercise),
        )  # fmt: skip

    def is_late(self, at: datetime) -> bool:
        return at > self.due_at

    def accepts_submissions(self, at: datetime) -> bool:
        """Return whether a first take may be handed in at that time."""
        assignment = self.assignment
        if not self.is_given or assignment.withdrawn_at is not None or assignment.closed_at is not None:
            return False
        return assignment.late != Late.REFUSED or not self.is_late(at)

    def late_days(self, at: datetime) -> int:
        """Return the number of days begun after the due date.

        The assignment says whether they cost anything.
        """
        return (at - self.due_at).days + 1 if self.is_late(at) else 0


def shows_analysis(assignment: Assignment, exercise: Exercise) -> bool:
    """Return whether students see the analysis of a take before its mark is released."""
    return exercise.recording_rules.shows_analysis and assignment.seen != FeedbackVisibility.NOTHING


def get_student_terms(assignment: Assignment, student: User) -> StudentTerms:
    arranged = Arrangement.objects.filter(assignment=assignment, student=student)
    attendance = Attendance.objects.filter(schoolclass=assignment.school_class_id, user=student)
    joined_at = attendance.values_list("joined_at", flat=True).first()
    return _student_terms(assignment, arranged.select_related("version").first(), joined_at)


def _student_terms(
    assignment: Assignment, arranged: Arrangement | None, joined_at: datetime | None = None
) -> StudentTerms:
    has_more_time = arranged is not None and arranged.due_at is not None
    return StudentTerms(
        assignment=assignment,
        exercise=(arranged.version if arranged is not None else None) or assignment.exercise,
        due_at=(arranged.due_at if arranged is not None else None) or assignment.due_at,
        is_given=assignment.is_for_all or (arranged is not None and arranged.is_given),
        is_excused=arranged is not None and arranged.excused_at is not None,
        has_more_time=has_more_time,
        arrangement=arranged,
        joined_at=joined_at,
    )


def trial_terms(exercise: Exercise) -> StudentTerms:
    """Return the terms of an exercise as for a student with no special arrangements."""
    now = timezone.now()
    return _student_terms(Assignment(exercise=exercise, given_at=now, due_at=now), None)


class StudentTermsTable:
    """Those of several assignments and students, read with two queries."""

    def __init__(self, assignments: Iterable[Assignment], *, student: User | None = None) -> None:
        self._assignments = {assignment.pk: assignment for assignment in assignments}
        rows = Arrangement.objects.filter(assignment__in=list(self._assignments)).select_related("version")
        attendances = Attendance.objects.filter(
            schoolclass__in={assignment.school_class_id for assignment in self._assignments.values()}
        )
        if student is not None:
            rows, attendances = rows.filter(student=student), attendances.filter(user=student)
        self._arranged = {(row.assignment_id, row.student_id): row for row in rows}
        joined = attendances.values_list("schoolclass_id", "user_id", "joined_at")
        self._joined_at = {(school_class, user): joined_at for school_class, user, joined_at in joined}
        self.students: dict[int, list[int]] = defaultdict(list)
        """Keys of the students of each class, of the one alone who was named."""
        for school_class, user in self._joined_at:
            self.students[school_class].append(user)

    def of(self, assignment_pk: int, student_pk: int) -> StudentTerms:
        assignment = self._assignments[assignment_pk]
        return _student_terms(
            assignment,
            self._arranged.get((assignment_pk, student_pk)),
            self._joined_at.get((assignment.school_class_id, student_pk)),
        )


def is_open(assignment: Assignment) -> bool:
    """Return whether students have the assignment now."""
    opens = assignment.opens_at
    return assignment.withdrawn_at is None and (opens is None or opens <= timezone.now())
