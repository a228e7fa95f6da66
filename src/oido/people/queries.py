"""Who belongs where."""

from django.db.models import Q, QuerySet

from oido.people.models import SchoolClass, User


def classes_of(user: User) -> QuerySet[SchoolClass]:
    """Return the classes that a teacher teaches, or that a student attends, in the current school."""
    classes = SchoolClass.objects.filter(school=user.school_id)
    return classes.filter(teachers=user) if user.is_teacher else classes.filter(students=user)


def classes_seen(user: User) -> QuerySet[SchoolClass]:
    """Return those classes, or, for a head, all of the school."""
    return SchoolClass.objects.filter(school=user.school_id) if user.is_head else classes_of(user)


def teaches(user: User, school_class: SchoolClass) -> bool:
    """Return whether the user may act as a teacher of the class. A head may in every class of the school."""
    if not user.is_teacher or school_class.school_id != user.school_id:
        return False
    return user.is_head or school_class.teachers.filter(pk=user.pk).exists()


def attends(user: User, school_class: SchoolClass) -> bool:
    if user.is_teacher or school_class.school_id != user.school_id:
        return False
    return school_class.students.filter(pk=user.pk).exists()


def name_contains(word: str) -> QuerySet[User]:
    """Return the filter for people whose names contain a word."""
    return User.objects.filter(
        Q(first_name__icontains=word) | Q(last_name__icontains=word) | Q(username__icontains=word)
    )
