from django.db.models import Case, Exists, F, OuterRef, Q, QuerySet, Value, When
from django.shortcuts import get_object_or_404

from oido.exercises.models import Exercise
from oido.people.models import User
from oido.people.queries import classes_of


def visible_exercises(user: User) -> QuerySet[Exercise]:
    """Return the exercises that a user may read.

    A teacher reads their own, those that colleagues share and those given to their classes; a head, all of the
    school; a student, what they were given. Deleted ones are included, because takes of them can still be
    opened.
    """
    others_begun = Q(is_begun=True) & ~Q(owner=user)
    exercises = Exercise.objects.select_related("owner").filter(school=user.school_id).exclude(others_begun)
    if user.is_head:
        return exercises
    if user.is_teacher:
        return exercises.filter(Q(is_shared=True) | Q(owner=user) | Exists(_assigned_by(user)))
    return exercises.filter(assignments__school_class__students=user).distinct()


def library(user: User) -> QuerySet[Exercise]:
    """Return the exercises in the library: visible, not deleted, and saved at least once."""
    return visible_exercises(user).filter(deleted_at=None, is_begun=False)


def own_exercises(user: User) -> QuerySet[Exercise]:
    """Return a teacher's own exercises, including unsaved ones but not deleted ones."""
    return Exercise.objects.filter(school=user.school_id, owner=user, deleted_at=None)


def own_exercise_or_404(user: User, pk: int) -> Exercise:
    """Return one of the user's own exercises in the library, with `has_unsaved`."""
    own = with_unsaved(own_exercises(user).filter(is_begun=False))
    own = own.select_related("owner", "part", "variation_of__exercise")
    return get_object_or_404(own, pk=pk)


def begun(user: User) -> QuerySet[Exercise]:
    """Return what a teacher has begun on the Bench and never saved."""
    return own_exercises(user).filter(is_begun=True)


def with_unsaved(exercises: QuerySet[Exercise]) -> QuerySet[Exercise]:
    """Return the exercises, each with `has_unsaved`: whether the Bench holds unsaved changes."""
    is_other = Q(draft__isnull=False) & (
        Q(draft__kept_position=None) | ~Q(draft__position=F("draft__kept_position"))
    )
    return exercises.annotate(has_unsaved=Case(When(is_other, then=Value(True)), default=Value(False)))


def _assigned_by(teacher: User) -> QuerySet[Exercise]:
    """Exercises like the outer one that are given to a class of the teacher's."""
    return Exercise.objects.filter(pk=OuterRef("pk"), assignments__school_class__in=classes_of(teacher))
