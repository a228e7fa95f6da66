from django.db.models import Q, QuerySet

from oido.exercises.models import Exercise
from oido.people.models import User


def visible_exercises(user: User) -> QuerySet[Exercise]:
    """A teacher's own and those of the teacher's school; what a student was given."""
    exercises = Exercise.objects.select_related("owner")
    if user.is_teacher:
        return exercises.filter(Q(owner=user) | Q(school=user.school))
    return exercises.filter(assignments__school_class__students=user).distinct()
