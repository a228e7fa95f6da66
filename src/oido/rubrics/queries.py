from django.db.models import Q, QuerySet

from oido.people.models import User
from oido.rubrics.models import Rubric


def visible_rubrics(teacher: User) -> QuerySet[Rubric]:
    """Return a teacher's own rubrics and those that others share in the school."""
    return Rubric.objects.filter(
        Q(owner=teacher) | Q(is_shared=True), school=teacher.current_school
    ).select_related("owner", "current")
