from django.db.models import Exists, OuterRef, Prefetch, QuerySet

from oido.assignments.models import Assignment
from oido.assignments.queries import visible_assignments
from oido.people.models import User
from oido.takes.models import Take


def visible_takes(user: User) -> QuerySet[Take]:
    """Return a student's own takes; for a teacher, those handed in to their classes; for a head, those handed
    in to any class.
    """
    takes = (
        Take.objects.select_related(
            "assignment__exercise", "assignment__school_class", "student", "part__exercise", "judgement__measurement",
            "judgement__rubric__rubric", "sheet", "corrected", "assignment__rubric",
        )
        .prefetch_related("passes")
        .defer("part__source_file")
        .filter(school=user.school_id, student__erased_as="")
    )  # fmt: skip
    if user.is_head:
        return takes.filter(handed_in_at__isnull=False)
    if user.is_teacher:
        return takes.filter(assignment__school_class__teachers=user, handed_in_at__isnull=False)
    return takes.filter(student=user)


def takes_of_withdrawn(student: User) -> QuerySet[Take]:
    """Return what a student recorded for withdrawn exercises and never handed in, newest first."""
    takes = Take.objects.filter(student=student, handed_in_at=None, deleted_at=None)
    withdrawn = takes.filter(assignment__withdrawn_at__isnull=False).defer("events")
    return withdrawn.select_related("assignment__exercise").order_by("-recorded_at")


def takes_of_earlier_classes(student: User) -> QuerySet[Take]:
    """Return what a student handed in for classes that they have left or that are archived, newest first."""
    handed_in = Take.objects.filter(student=student, handed_in_at__isnull=False)
    current = student.classes_attended.filter(archived_at=None)
    return (
        handed_in.exclude(assignment__school_class__in=current.values("pk"))
        .select_related("assignment__exercise", "assignment__school_class", "sheet")
        .defer("events")
        .order_by("-handed_in_at")
    )


def assignments_of_student(student: User) -> QuerySet[Assignment]:
    """Return the assignments with `is_handed_in`, and the student's takes as `own_takes`, newest first."""

    own = Take.objects.filter(student=student).select_related("sheet").defer("events")
    return (
        visible_assignments(student)
        .filter(school_class__archived_at=None)
        .annotate(
            is_handed_in=Exists(
                Take.objects.filter(assignment=OuterRef("pk"), student=student, handed_in_at__isnull=False)
            )
        )
        .prefetch_related(Prefetch("takes", queryset=own, to_attr="own_takes"))
    )
