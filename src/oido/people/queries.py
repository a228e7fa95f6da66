"""Who belongs where."""

from django.db.models import QuerySet

from oido.people.models import SchoolClass, User


def classes_of(user: User) -> QuerySet[SchoolClass]:
    """The classes that a teacher teaches, or that a student attends."""
    if user.is_teacher:
        return SchoolClass.objects.filter(teachers=user)
    return SchoolClass.objects.filter(students=user)
