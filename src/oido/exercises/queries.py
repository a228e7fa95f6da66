from django.db.models import Exists, OuterRef, Q, QuerySet

from oido.exercises.models import Exercise
from oido.people.models import User
from oido.people.queries import classes_of


def visible_exercises(user: User) -> QuerySet[Exercise]:
    """Those that a teacher may read: the own ones, what colleagues share, what is given to the own classes; a
    head's, of the whole school. What a student was given. Deleted ones, too: what was recorded with them is still
    looked at."""
    exercises = Exercise.objects.select_related("owner").filter(school=user.school_id)
    if user.is_head:
        return exercises
    if user.is_teacher:
        return exercises.filter(Q(is_shared=True) | Q(owner=user) | Exists(_given_to(user)))
    return exercises.filter(assignments__school_class__students=user).distinct()


def library(user: User) -> QuerySet[Exercise]:
    """Those of them that are not deleted."""
    return visible_exercises(user).filter(deleted_at=None)


def _given_to(teacher: User) -> QuerySet[Exercise]:
    """Exercises like the outer one that are given to a class of the teacher's."""
    return Exercise.objects.filter(pk=OuterRef("pk"), assignments__school_class__in=classes_of(teacher))
