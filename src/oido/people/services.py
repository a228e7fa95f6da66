"""Who is in a school, and how things are named there."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from oido.common.permissions import NotAllowed
from oido.people.forms import OwnNamingForm, SchoolNamingForm
from oido.people.models import Membership, Role, School, User


@transaction.atomic
def set_school_naming(teacher: User, form: SchoolNamingForm) -> None:
    """Set the school's naming convention, as a teacher. `form` is valid."""
    if not teacher.is_teacher or teacher.school_id != form.instance.pk:
        raise NotAllowed
    form.save()


@transaction.atomic
def set_own_naming(user: User, form: OwnNamingForm) -> None:
    """Set the user's own naming convention. `form` is valid."""
    if form.instance.pk != user.pk:
        raise NotAllowed
    form.save()


def choose_school(membership: Membership) -> None:
    """Keep which of a person's schools they work in: the one chosen last."""
    Membership.everywhere.filter(pk=membership.pk).update(chosen_at=timezone.now())


@transaction.atomic
def new_member(
    school: School, role: Role, *, username: str, password: str | None = None, **facts: Any
) -> User:
    """Add somebody new to a school. Without a password they cannot sign in until one is set."""
    made = User.objects.create_user(username=username, password=password, **facts)
    Membership.everywhere.create(school=school, person=made, role=role)
    return made
