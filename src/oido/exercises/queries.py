from django.db.models import QuerySet

from oido.exercises.models import Exercise
from oido.people.models import User


def visible_exercises(user: User) -> QuerySet[Exercise]:
    """Those of a teacher's school; what a student was given."""
    exercises = Exercise.objects.select_related("owner").filter(school=user.school_id)
    if user.is_teacher:
        return exercises
    return exercises.filter(assignments__school_class__students=user).distinct()
